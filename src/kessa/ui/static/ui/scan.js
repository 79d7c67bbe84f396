// Reads a bar code or square code into a field, where the browser can; elsewhere it is typed.
const dialog = /** @type {HTMLDialogElement | null} */ (document.getElementById("scanner"));
const video = dialog?.querySelector("video");
const Detector = /** @type {any} */ (globalThis).BarcodeDetector;

/** @type {MediaStream | null} */
let stream = null;

function stop() {
  for (const track of stream?.getTracks() ?? []) track.stop();
  stream = null;
  if (dialog?.open) dialog.close();
}

/** @param {string} text */
function say(text) {
  const said = document.getElementById("scan-said");
  if (said) said.textContent = text;
}

/** @param {HTMLInputElement} field */
async function scan(field) {
  if (!dialog || !video) return;
  say("Hold the code in front of the camera.");
  dialog.showModal();
  try {
    stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: "environment" } });
  } catch {
    say("The camera is not available. Type the number instead.");
    return;
  }
  video.srcObject = stream;
  await video.play();
  const detector = new Detector();
  while (stream) {
    const [found] = await detector.detect(video).catch(() => []);
    if (found?.rawValue && stream) {
      field.value = String(found.rawValue)
        .trim()
        .slice(0, field.maxLength > 0 ? field.maxLength : 40);
      stop();
      field.focus();
      return;
    }
    await new Promise((resolve) => setTimeout(resolve, 150));
  }
}

if (Detector && navigator.mediaDevices && dialog) {
  for (const button of document.querySelectorAll("button[data-scan]")) {
    if (!(button instanceof HTMLButtonElement)) continue;
    const field = document.getElementById(button.dataset.scan ?? "");
    if (!(field instanceof HTMLInputElement)) continue;
    button.hidden = false;
    button.addEventListener("click", () => scan(field));
  }
  document.getElementById("scan-stop")?.addEventListener("click", stop);
  dialog.addEventListener("close", stop);
}
