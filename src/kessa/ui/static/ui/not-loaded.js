// A part of a page that could not be fetched says so; the next one that can takes it away.
import { find } from "./dom.js";

function fail(kind) {
  const notice = find("#not-loaded");
  notice.textContent = notice.dataset[kind];
  notice.hidden = false;
}

export function listen() {
  document.body.addEventListener("htmx:sendError", () => fail("offline"));
  document.body.addEventListener("htmx:responseError", () => fail("failed"));
  document.body.addEventListener("htmx:afterOnLoad", () => {
    find("#not-loaded").hidden = true;
  });
}
