// The keys of every page: G and a letter to a place, / to search, ? for the list of keys.
import { find, findAll, targetOf } from "./dom.js";

const PLACES = { t: 0, p: 1, b: 2, l: 3, i: 4 };
let going = false;

function toggleKeys() {
  const keys = find("#keys");
  if (keys.open) keys.close();
  else keys.showModal();
}

function closeMenus() {
  for (const menu of findAll("details.dropdown[open]")) menu.open = false;
}

function search() {
  const field = find("#q") ?? find("#find");
  if (field.offsetParent) field.focus();
  else location.assign(field.form.action);
}

function press(event) {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
  if (event.key === "Escape") closeMenus();
  if (targetOf(event).matches("input, textarea, select")) return;
  const key = event.key.toLowerCase();
  if (going && key in PLACES) findAll("[data-places] a")[PLACES[key]]?.click();
  going = key === "g";
  if (key === "/" && (find("#q") ?? find("#find"))) {
    event.preventDefault();
    search();
  } else if (key === "?") toggleKeys();
}

export function listen() {
  find("[data-keys]")?.addEventListener("click", toggleKeys);
  document.addEventListener("keydown", press);
  // An open menu closes when the attention goes elsewhere.
  document.addEventListener("click", (event) => {
    for (const menu of findAll("details.dropdown[open]"))
      if (!menu.contains(targetOf(event))) menu.open = false;
  });
}
