// The keyboard: Space, Backspace, A, E, N, O, D, C and 1-5. A held key counts once.
import { find, findAll } from "./dom.js";

const BY_SPOT = {
  asked: { n: "accept" },
  tick: { n: "tick", enter: "tick", a: "all" },
  wait: { n: "time", enter: "time" },
  count: { " ": "drop", e: "end", x: "beyond" },
  reading: { n: "next", enter: "next", o: "back-off", d: "doubt", c: "check-drop" },
  "blank-failed": { n: "again" },
  held: { n: "take-over" },
  beyond: { n: "go-on" },
  "stage-end": { n: "stage" },
};

function isTyping(element) {
  return element.matches("input:not([type=checkbox]), textarea, select, summary, a");
}

export function listen({ acts, spot }) {
  document.addEventListener("keydown", (event) => {
    const target = /** @type {HTMLElement} */ (event.target);
    if (event.repeat || event.ctrlKey || event.metaKey || event.altKey || isTyping(target)) return;
    const key = event.key.toLowerCase();
    const onButton = target.matches("button");
    if (target.matches("[type=checkbox]") && key === " ") return;
    if (onButton && key === "enter") return;
    if (onButton && key === " " && target.dataset.act !== "drop") return;
    const name = key === "backspace" ? "take-back" : BY_SPOT[spot()]?.[key];
    const answer = spot() === "check" && findAll("#answers button")[Number(key) - 1];
    if (answer) answer.click();
    else if (name && !find(`[data-act="${name}"]`)?.hidden) acts[name]();
    else return;
    event.preventDefault();
  });
}
