// Clocks that a page shows of tests: each counts to its end by itself, then on from it.

import { clockText } from "./clock-text.js";
import { trueNow } from "./true-time.js";

/**
 * What a clock shows now: what is left, for how long it has been over, or by how much it is too late.
 * @param {DOMStringMap} clock
 */
export function shown({ due, until, over, late }, now = trueNow()) {
  const left = (Date.parse(due) - now) / 1000;
  if (left > 0) return { words: clockText(left), state: left < 60 ? "soon" : "running" };
  const lateBy = until ? (now - Date.parse(until)) / 1000 : 0;
  if (lateBy > 0) return { words: `${clockText(lateBy)} ${late}`, state: "late" };
  return { words: `${clockText(-left)} ${over}`, state: "over" };
}

export function countDown(root = document.body, now = trueNow()) {
  for (const element of root.querySelectorAll("[data-due]")) {
    const clock = /** @type {HTMLElement} */ (element);
    const { words, state } = shown(clock.dataset, now);
    if (clock.textContent !== words) clock.textContent = words;
    clock.dataset.state = state;
  }
}

const SVG = "http://www.w3.org/2000/svg";

// One clock kept on the device, as a link to its test.
export function drawn(clock, { over, late, look }) {
  const link = document.createElement("a");
  link.className = "kept-clock";
  link.href = clock.address;
  const shape = document.createElementNS(SVG, "svg");
  shape.setAttribute("class", "mark");
  shape.setAttribute("viewBox", "0 0 20 20");
  shape.setAttribute("aria-hidden", "true");
  const path = document.createElementNS(SVG, "path");
  path.setAttribute("d", clock.shape);
  shape.append(path);
  const time = document.createElement("span");
  time.className = "figure";
  if (clock.look) time.textContent = look;
  else {
    time.setAttribute("role", "timer");
    time.dataset.due = new Date(clock.due).toISOString();
    if (clock.until) time.dataset.until = new Date(clock.until).toISOString();
    Object.assign(time.dataset, { over, late });
  }
  link.append(shape, document.createTextNode(` ${clock.short} `), time);
  link.title = clock.title;
  return link;
}
