// Who signs out leaves no bench page and no clock here; acts that wait stay, and are sent from any page.
import { forgetClocks } from "../bench/kept-clocks.js";
import { find } from "./dom.js";

export function listen() {
  const form = find("[data-sign-out]");
  form?.addEventListener("submit", async (event) => {
    event.preventDefault();
    try {
      for (const store of (await globalThis.caches?.keys()) ?? []) await caches.delete(store);
      forgetClocks();
    } finally {
      form.submit();
    }
  });
}
