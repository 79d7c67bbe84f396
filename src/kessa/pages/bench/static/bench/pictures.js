// The pictures of steps: shows the one at hand, with the numbers and colours of its sheet.
import { show } from "./dom.js";

const every = (picture, name, set) => picture.querySelectorAll(`[data-${name}]`).forEach(set);
const PH_PX = 260 / 14; // the drawn scale runs from 20 to 280

export function paintPicture(sheet, stage, step, wanted) {
  for (const picture of document.querySelectorAll("[data-picture]")) {
    const here = picture.dataset.picture === wanted;
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

function phWindow(picture, [low, high]) {
  const at = (ph) => 20 + Number(ph) * PH_PX;
  every(picture, "ph-window", (part) => {
    part.setAttribute("x", at(low));
    part.setAttribute("width", at(high) - at(low));
  });
  every(picture, "ph-low", (part) => (part.setAttribute("x", at(low)), (part.textContent = low)));
  every(picture, "ph-high", (part) => (part.setAttribute("x", at(high)), (part.textContent = high)));
}
