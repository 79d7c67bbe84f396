// The theme: day, sunlight, dark; kept in a cookie, so that the server draws it.
import { find } from "./dom.js";

const YEAR_S = 31536000;

export function listen() {
  const button = find("[data-theme-switch]");
  button?.addEventListener("click", (event) => {
    // A pointer leaves the keyboard to the page: Space is a drop again, not another theme.
    if (event.detail > 0) button.blur();
    const page = document.documentElement;
    const themes = button.dataset.themes.split(" ");
    const next = themes[(themes.indexOf(page.dataset.theme) + 1) % themes.length];
    page.dataset.theme = next;
    document.cookie = `theme=${next}; path=/; max-age=${YEAR_S}; samesite=lax`;
    find("[data-theme-name]", button).textContent = next[0].toUpperCase() + next.slice(1);
  });
}
