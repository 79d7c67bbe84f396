// Finding a test by typing: what does not match is hidden, a heading with nothing under it too.
import { find, findAll, targetOf } from "./dom.js";

function filter(field) {
  const words = field.value.toLowerCase().split(/\s+/).filter(Boolean);
  const tests = field.closest("[data-tests]");
  for (const one of findAll("[data-test]", tests))
    one.hidden = !words.every((word) => one.dataset.test.includes(word));
  for (const group of findAll("[data-test-group]", tests))
    group.hidden = !find("[data-test]:not([hidden])", group);
  find("[data-no-test]", tests).hidden = Boolean(find("[data-test]:not([hidden])", tests));
}

function take(event) {
  const first = find("[data-test]:not([hidden])", targetOf(event).closest("[data-tests]"));
  event.preventDefault();
  find("form", first)?.requestSubmit();
}

export function listen() {
  document.addEventListener("input", (event) => {
    const target = targetOf(event);
    if (target.matches("[data-find-test]")) filter(target);
  });
  document.addEventListener("keydown", (event) => {
    if (event.key === "Enter" && targetOf(event).matches("[data-find-test]")) take(event);
  });
}
