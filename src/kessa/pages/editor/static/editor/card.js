// Picks the colours of a card from its photograph, which never leaves the device: tap a shade, then
// its place in the photograph; the next shade comes by itself.

const LONGEST = 900;

/** @type {HTMLInputElement | null} */
let next = null;

function choose(pick) {
  next?.classList.remove("is-next");
  next = pick;
  next?.classList.add("is-next");
}

// The mean colour of a small square, so that grain and glare count less.
function colourAt(canvas, x, y) {
  const reach = 4;
  const { data } = canvas
    .getContext("2d")
    .getImageData(Math.max(0, x - reach), Math.max(0, y - reach), 2 * reach + 1, 2 * reach + 1);
  const sums = [0, 0, 0];
  for (let at = 0; at < data.length; at += 4)
    for (let part = 0; part < 3; part += 1) sums[part] += data[at + part];
  const mean = sums.map((sum) => Math.round(sum / (data.length / 4)));
  return `#${mean.map((part) => part.toString(16).padStart(2, "0")).join("")}`;
}

async function show(file, canvas) {
  const picture = await createImageBitmap(file);
  const scale = Math.min(1, LONGEST / Math.max(picture.width, picture.height));
  canvas.width = Math.round(picture.width * scale);
  canvas.height = Math.round(picture.height * scale);
  canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
  canvas.hidden = false;
}

document.addEventListener("change", (event) => {
  const target = /** @type {HTMLInputElement} */ (event.target);
  if (!target.matches("[data-card-file]") || !target.files?.length) return;
  show(target.files[0], target.closest("[data-card]").querySelector("canvas"));
});

document.addEventListener("focusin", (event) => {
  const target = /** @type {HTMLInputElement} */ (event.target);
  if (target.matches(".pick")) choose(target);
});

document.addEventListener("click", (event) => {
  const target = /** @type {HTMLCanvasElement} */ (event.target);
  if (!target.matches("[data-card-canvas]")) return;
  const section = target.closest("section");
  const picks = [...section.querySelectorAll(".items .pick")];
  if (!next || !picks.includes(next)) choose(/** @type {HTMLInputElement} */ (picks[0] ?? null));
  if (!next) return;
  const box = target.getBoundingClientRect();
  const x = Math.round(((event.clientX - box.left) * target.width) / box.width);
  const y = Math.round(((event.clientY - box.top) * target.height) / box.height);
  next.value = colourAt(target, x, y);
  next.dispatchEvent(new Event("change", { bubbles: true }));
  choose(/** @type {HTMLInputElement} */ (picks[picks.indexOf(next) + 1] ?? null));
});
