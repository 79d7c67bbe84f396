// What every page does: the theme, the keys, printing, and acts that wait on this device.
import { sendLeftBehind } from "../bench/left-behind.js";

const button = document.querySelector("[data-theme-switch]");
button?.addEventListener("click", (event) => {
  // A pointer leaves the keyboard to the page: Space is a drop again, not another theme.
  if (event.detail > 0) button.blur();
  const themes = button.dataset.themes.split(" ");
  const next = themes[(themes.indexOf(document.documentElement.dataset.theme) + 1) % themes.length];
  document.documentElement.dataset.theme = next;
  document.cookie = `theme=${next}; path=/; max-age=31536000; samesite=lax`;
  button.lastElementChild.textContent = next[0].toUpperCase() + next.slice(1);
});

const keys = document.getElementById("keys");
const showKeys = () => (keys.open ? keys.close() : keys.showModal());
document.querySelector("[data-keys]")?.addEventListener("click", showKeys);
document.querySelectorAll("[data-print]").forEach((one) => one.addEventListener("click", () => print()));

document.querySelectorAll("[data-show-password]").forEach((one) =>
  one.addEventListener("click", () => {
    const input = document.getElementById(one.getAttribute("aria-controls"));
    const shown = input.type === "password";
    input.type = shown ? "text" : "password";
    one.setAttribute("aria-pressed", shown);
  }),
);

// A photographed invitation carries its code behind the "#", which is never sent.
const code = document.querySelector("form[data-code-from-picture] input[name=code]");
const photographed = new URLSearchParams(location.hash.slice(1)).get("code");
if (code && photographed) {
  code.value = photographed.slice(0, 40);
  history.replaceState(null, "", location.pathname);
}

// Who signs out leaves no bench page here; acts that wait stay, and are sent from any page.
document.querySelector("[data-sign-out]")?.addEventListener("submit", async (event) => {
  event.preventDefault();
  try {
    for (const store of (await globalThis.caches?.keys()) ?? []) await caches.delete(store);
  } finally {
    event.target.submit();
  }
});

// An open menu closes when the attention goes elsewhere.
document.addEventListener("click", (event) => {
  for (const menu of document.querySelectorAll("details.menu[open]")) if (!menu.contains(event.target)) menu.open = false;
});

const PLACES = { t: 0, w: 1, b: 2, l: 3, i: 4 };
let going = false;
document.addEventListener("keydown", (event) => {
  if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return;
  if (event.key === "Escape") document.querySelectorAll("details.menu[open]").forEach((menu) => (menu.open = false));
  if (event.target.matches("input, textarea, select")) return;
  const key = event.key.toLowerCase();
  if (going && key in PLACES) document.querySelectorAll(".top nav a")[PLACES[key]]?.click();
  going = key === "g";
  const find = document.getElementById("q") ?? document.getElementById("find");
  if (key === "/" && find) {
    event.preventDefault();
    if (find.offsetParent) find.focus();
    else location.assign(find.form.action);
  } else if (key === "?") showKeys();
});

// A part of a page that could not be fetched says so; the next one that can takes it away.
const notLoaded = document.getElementById("not-loaded");
const failed = (kind) => {
  notLoaded.textContent = notLoaded.dataset[kind];
  notLoaded.hidden = false;
};
document.body.addEventListener("htmx:sendError", () => failed("offline"));
document.body.addEventListener("htmx:responseError", () => failed("failed"));
document.body.addEventListener("htmx:afterOnLoad", () => (notLoaded.hidden = true));

sendLeftBehind();
