// The pictures of steps: shows the one at hand, with the numbers and colours of its sheet.
import { $, findAll, show } from "./dom.js";

const every = (picture, name, set) => picture.querySelectorAll(`[data-${name}]`).forEach(set);
const PH_PX = 260 / 14; // the drawn scale runs from 20 to 280

function put(part, x, words) {
  part.setAttribute("x", x);
  part.textContent = words;
}

export function paintPicture(sheet, stage, step, wanted) {
  const own = wanted ? paintPhoto(step) : paintPhoto(null);
  for (const picture of findAll("[data-picture]")) {
    const here = !own && picture.dataset.picture === wanted;
    show(picture, here);
    if (!here) continue;
    const { portion = "", start = "", hex } = stage.drawn;
    every(picture, "times", (part) => (part.textContent = step.times ? `${step.times}×` : ""));
    every(picture, "portion", (part) => (part.textContent = portion));
    every(picture, "start-name", (part) => (part.textContent = start));
    every(picture, "start-fill", (part) => hex && part.setAttribute("fill", hex));
    if (sheet.ph) phWindow(picture, sheet.ph);
  }
}

// A photograph of one's own stands in place of the drawing.
function paintPhoto(step) {
  const photo = /** @type {HTMLImageElement} */ ($("own-photo"));
  const own = Boolean(step?.photo);
  if (own) {
    photo.src = step.photo;
    photo.alt = step.title;
  }
  show(photo, own);
  return own;
}

function phWindow(picture, [low, high]) {
  const at = (ph) => 20 + Number(ph) * PH_PX;
  every(picture, "ph-window", (part) => {
    part.setAttribute("x", at(low));
    part.setAttribute("width", at(high) - at(low));
  });
  every(picture, "ph-low", (part) => put(part, at(low), low));
  every(picture, "ph-high", (part) => put(part, at(high), high));
}
