// Puts mark and whisker on a gauge that the server drew: positions in thousandths.
import { find } from "./dom.js";

const SVG = "http://www.w3.org/2000/svg";
const SHAPES = {
  within: [["circle", { class: "mark", r: 5.5 }]],
  close: [
    ["circle", { class: "hole", r: 6 }],
    ["path", { class: "mark", d: "M0 -6 a6 6 0 0 1 0 12z" }],
  ],
  beyond: [["path", { class: "mark", d: "M0 -7 L7 0 L0 7 L-7 0z" }]],
  none: [["rect", { class: "mark", x: -2.5, y: -6, width: 5, height: 12 }]],
};
const ARROW = [["path", { class: "mark", d: "M-10 -6 L1 0 L-10 6 z" }]];

export const SIGNS = { within: "●", close: "◐", beyond: "◆", none: "○" };

function make(name, attributes) {
  const element = document.createElementNS(SVG, name);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
  return element;
}

export function gauge(row) {
  const [scale, mark, low, high, over] = row.g;
  const template = find(`template[data-gauge="${scale}"]`);
  const svg = template.content.firstElementChild.cloneNode(true);
  svg.setAttribute("class", `gauge fill-${row.s}`);
  svg.setAttribute("aria-label", `${row.f} ${row.u}, ${row.r}; ${row.w} ${row.a}`);
  svg.append(
    make("rect", {
      class: "whisker",
      x: `${low / 10}%`,
      y: 10.5,
      width: `${Math.max(high - low, 2) / 10}%`,
      height: 5,
    }),
  );
  const at = make("svg", { x: `${mark / 10}%`, y: 13, overflow: "visible" });
  for (const [name, attributes] of over ? ARROW : SHAPES[row.s]) at.append(make(name, attributes));
  svg.append(at);
  return svg;
}
