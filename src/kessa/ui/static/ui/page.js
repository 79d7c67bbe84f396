// What every page does: the theme switch.
const button = document.querySelector("[data-theme-switch]");
button?.addEventListener("click", () => {
  const dark = document.documentElement.dataset.theme !== "dark";
  document.documentElement.dataset.theme = dark ? "dark" : "day";
  document.cookie = `theme=${dark ? "dark" : "day"}; path=/; max-age=31536000; samesite=lax`;
  button.firstElementChild.textContent = dark ? button.dataset.day : button.dataset.dark;
});
