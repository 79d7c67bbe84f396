// Small helps of forms and buttons: showing a password, printing, the code of a photographed
// invitation.
import { find, findAll } from "./dom.js";

const LONGEST_CODE = 40;

function showPassword(button) {
  const input = document.getElementById(button.getAttribute("aria-controls"));
  const shown = input.getAttribute("type") === "password";
  input.setAttribute("type", shown ? "text" : "password");
  button.setAttribute("aria-pressed", String(shown));
}

// A photographed invitation carries its code behind the "#", which is never sent.
function takePhotographedCode() {
  const code = find("form[data-code-from-picture] input[name=code]");
  const photographed = new URLSearchParams(location.hash.slice(1)).get("code");
  if (!code || !photographed) return;
  code.value = photographed.slice(0, LONGEST_CODE);
  history.replaceState(null, "", location.pathname);
}

export function listen() {
  for (const button of findAll("[data-show-password]"))
    button.addEventListener("click", () => showPassword(button));
  for (const button of findAll("[data-print]")) button.addEventListener("click", () => print());
  takePhotographedCode();
}
