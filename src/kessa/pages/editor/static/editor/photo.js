// A photograph for a step or a shade: made small on the device and sent once, as part of the draft.
const WIDEST = 480;
const LETTERS = 38_000;

/** @param {File} file */
async function shrunk(file) {
  const picture = await createImageBitmap(file);
  const canvas = document.createElement("canvas");
  for (let longest = WIDEST; longest >= 120; longest *= 0.8) {
    const scale = Math.min(1, longest / Math.max(picture.width, picture.height));
    canvas.width = Math.max(1, Math.round(picture.width * scale));
    canvas.height = Math.max(1, Math.round(picture.height * scale));
    const paper = canvas.getContext("2d");
    paper?.drawImage(picture, 0, 0, canvas.width, canvas.height);
    const text = canvas.toDataURL("image/jpeg", 0.72);
    if (text.length <= LETTERS) return text;
  }
  return "";
}

// Hidden fields for this one sending: the form does not send the pictures that are there already.
function send(form, name, value) {
  for (const [key, text] of [
    ["shown", name],
    [name, value],
  ]) {
    if (key === name && !value) continue;
    const field = document.createElement("input");
    field.type = "hidden";
    field.name = key;
    field.value = text;
    form.append(field);
  }
  form.requestSubmit(form.querySelector("button[type=submit]"));
}

document.addEventListener("change", async (event) => {
  const target = /** @type {HTMLInputElement} */ (event.target);
  if (!target.matches("[data-photo]") || !target.files?.length) return;
  event.stopPropagation();
  const text = await shrunk(target.files[0]).catch(() => "");
  if (text) send(target.form, target.dataset.photo, text);
  else target.setCustomValidity("This file is no picture.");
  target.reportValidity();
});

document.addEventListener("click", (event) => {
  const target = /** @type {HTMLElement} */ (event.target);
  if (target.matches("[data-photo-remove]"))
    send(target.closest("form"), target.dataset.photoRemove, "");
});
