// The reviewer's keyboard: A, R, X decide; J and K go along the queue.
const decide = document.getElementById("decide");
const reason = document.getElementById("id_reason");
const links = [...document.querySelectorAll(".queue a")];

function step(by) {
  const now = links.findIndex((link) => link.hasAttribute("aria-current"));
  links[now + by]?.click();
}

document.addEventListener("keydown", (event) => {
  if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.matches("input, textarea, select")) return;
  const key = event.key.toLowerCase();
  if (key === "j") step(1);
  else if (key === "k") step(-1);
  else {
    const button = decide?.querySelector(`button[data-key="${CSS.escape(key)}"]`);
    if (!button) return;
    event.preventDefault();
    if (key !== "a" && !reason.value.trim()) reason.focus();
    else if (!button.disabled) decide.requestSubmit(button);
  }
});
