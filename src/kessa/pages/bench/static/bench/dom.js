// What every painter needs of the page.
export { find, findAll } from "../ui/dom.js";

/** @type {(id: string) => any} */
export const $ = (id) => document.getElementById(id);
export const show = (element, shown) => element.toggleAttribute("hidden", !shown);
export function text(id, words) {
  $(id).textContent = words ?? "";
}
export const made = (name, textContent, className = "") =>
  Object.assign(document.createElement(name), { textContent, className });
