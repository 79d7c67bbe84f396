// Clocks that a page shows of tests: each counts to its end by itself, then on from it.

const text = (seconds) => {
  const whole = Math.ceil(Math.abs(seconds));
  const two = (n) => String(n).padStart(2, "0");
  const hours = Math.trunc(whole / 3600);
  const minutes = Math.trunc((whole % 3600) / 60);
  return `${hours ? `${hours}:${two(minutes)}` : minutes}:${two(whole % 60)}`;
};

/**
 * What a clock shows now: what is left, that it is over, or that it is too late.
 * @param {DOMStringMap} clock
 */
export function shown({ due, until, over, late }, now = Date.now()) {
  const left = (Date.parse(due) - now) / 1000;
  if (left > 0) return { words: text(left), state: left < 60 ? "soon" : "running" };
  const lateBy = until ? (now - Date.parse(until)) / 1000 : 0;
  if (lateBy > 0) return { words: `${text(lateBy)} ${late}`, state: "late" };
  return { words: over ?? "0:00", state: "over" };
}

export function countDown(root = document.body) {
  for (const element of root.querySelectorAll("[data-due]")) {
    const clock = /** @type {HTMLElement} */ (element);
    const { words, state } = shown(clock.dataset);
    if (clock.textContent !== words) clock.textContent = words;
    clock.dataset.state = state;
  }
}
