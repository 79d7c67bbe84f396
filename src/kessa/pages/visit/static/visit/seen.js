// Photographs of what is seen on a visit: kept on this device first, sent when possible.
import { madeSmaller } from "../bench/photographs.js";
import { find } from "../ui/dom.js";

// device: the Device of this page.
export function listenToPhotographs(device) {
  const box = find("#seen");
  if (!box) return;
  let taken = null;
  box.hidden = false;

  const put = (photograph) => {
    taken = photograph;
    find("#seen-form").hidden = !photograph;
    find("#seen-take").hidden = Boolean(photograph);
    find("#seen-wrong").hidden = true;
    if (photograph) find("#seen-preview").src = photograph.address;
    else {
      find("#seen-file").value = "";
      find("#seen-what").value = "";
    }
  };
  const failed = () => {
    put(null);
    find("#seen-wrong").hidden = false;
  };
  find("#seen-file").addEventListener("change", async (event) => {
    const [file] = event.target.files;
    if (!file) return;
    await madeSmaller(file).then(put, failed);
    find("#seen-what").focus();
  });
  find("#seen-away").addEventListener("click", () => put(null));
  find("#seen-form").addEventListener("submit", async (event) => {
    event.preventDefault();
    if (!taken) return;
    const { key, blob } = taken;
    try {
      await device.outbox.photographs.keep(key, blob);
      await device.keep("photo", find("#seen-sample").value, {
        photo: key,
        what: find("#seen-what").value.trim(),
      });
      put(null);
      await sayWaiting(device);
    } catch {
      failed();
    }
  });
  sayWaiting(device);
}

// How many pictures wait here to be sent.
export async function sayWaiting(device) {
  const box = find("#seen");
  if (!box) return;
  const waiting = await device.outbox.photographs.waiting().catch(() => []);
  const words = waiting.length ? box.dataset.kept.replace("{n}", waiting.length) : "";
  find("#seen-kept").textContent = words;
}
