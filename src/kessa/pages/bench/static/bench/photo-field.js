// The photograph of what is to be read: taken, looked at, and saved to be read later or beside the
// reading made now.
import { $, show, text } from "./dom.js";
import { madeSmaller } from "./photographs.js";

let taken = null;

function put(photograph) {
  taken = photograph;
  show($("photo-taken"), Boolean(photograph));
  show($("photo-take"), !photograph);
  show($("reading"), !photograph);
  show($("photo-wrong"), false);
  if (photograph) $("photo-preview").src = photograph.address;
  else $("photo-file").value = "";
}

// stage: the one at hand. Offered where its reading can be made from a photograph.
export function offerPhotograph(stage, key) {
  const box = $("photograph");
  show(box, Boolean(stage.photo));
  text("photo-says", stage.photo);
  if (box.dataset.of === key) return;
  box.dataset.of = key;
  put(null);
  show($("photo-beside-said"), false);
}

// save(photograph, {later, twice}): keeps it and makes the act; rejects where the device cannot.
export function listenToPhotographs(save) {
  $("photo-file").addEventListener("change", async () => {
    const [file] = $("photo-file").files;
    if (!file) return;
    try {
      put(await madeSmaller(file));
      $("photo-later").focus();
    } catch {
      put(null);
      show($("photo-wrong"), true);
    }
  });
  const saved = async (later) => {
    const photograph = taken;
    if (!photograph) return;
    const twice = $("photo-twice").checked;
    try {
      await save(photograph, { later, twice });
      $("photo-twice").checked = false;
      put(null);
      show($("photo-beside-said"), !later);
    } catch {
      show($("photo-wrong"), true);
    }
  };
  $("photo-later").addEventListener("click", () => saved(true));
  $("photo-beside").addEventListener("click", () => saved(false));
  $("photo-away").addEventListener("click", () => put(null));
}
