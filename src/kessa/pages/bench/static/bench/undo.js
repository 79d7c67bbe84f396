// What was discarded or ended can be undone for ten seconds, by a button that stands beside it.
import { $, show, text } from "./dom.js";

const SECONDS = 10;
let timer = 0;

export function offerUndo(said) {
  let left = SECONDS;
  text("undo-said", said);
  text("undo-left", String(left));
  show($("undo-for"), true);
  clearInterval(timer);
  timer = setInterval(() => {
    left -= 1;
    text("undo-left", String(left));
    if (left <= 0) hideUndo();
  }, 1000);
}

export function hideUndo() {
  clearInterval(timer);
  show($("undo-for"), false);
}
