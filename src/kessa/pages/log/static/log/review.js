// The reviewer's keyboard: A, R, X decide; J and K go along the queue. The page is replaced in
// part after each decision, so elements are found when a key is pressed.
import { find, findAll, targetOf } from "../ui/dom.js";

function step(by) {
  const links = findAll(".queue a");
  const now = links.findIndex((link) => link.hasAttribute("aria-current"));
  links[now + by]?.click();
}

function decide(key, event) {
  const form = find("#decide");
  const button = form && find(`button[data-key="${CSS.escape(key)}"]`, form);
  if (!button) return;
  event.preventDefault();
  const reason = find("#id_reason");
  if (key !== "a" && !reason.value.trim()) reason.focus();
  else button.click();
}

document.addEventListener("keydown", (event) => {
  if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
  if (targetOf(event).matches("input, textarea, select")) return;
  const key = event.key.toLowerCase();
  if (key === "j") step(1);
  else if (key === "k") step(-1);
  else decide(key, event);
});
