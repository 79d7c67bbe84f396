// What every painter needs of the page.

export const $ = (id) => document.getElementById(id);
export const show = (element, shown) => element.toggleAttribute("hidden", !shown);
export const text = (id, words) => ($(id).textContent = words ?? "");
export const made = (name, textContent, className = "") => Object.assign(document.createElement(name), { textContent, className });
