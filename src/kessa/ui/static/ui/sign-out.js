// Who signs out leaves no bench page and no clock here; acts that wait stay, and are sent from any page.
// While some wait that were not sent, signing out is asked about first.
import { forgetClocks } from "../bench/kept-clocks.js";
import { owners } from "../bench/outbox.js";
import { find } from "./dom.js";

export function listen() {
  const form = find("[data-sign-out]");
  form?.addEventListener("submit", async (event) => {
    event.preventDefault();
    const waits = await owners().catch(() => []);
    if (waits.length && !confirm(form.dataset.unsent)) return;
    try {
      for (const store of (await globalThis.caches?.keys()) ?? []) await caches.delete(store);
      forgetClocks();
    } finally {
      form.submit();
    }
  });
}
