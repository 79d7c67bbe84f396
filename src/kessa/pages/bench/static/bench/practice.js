// On a simulated sample nothing is kept and nothing is sent: what stands in for the outbox, the sender
// and the channel between windows.

export class NothingKept {
  keep = () => Promise.resolve();
  waiting = () => Promise.resolve([]);
  refused = () => Promise.resolve([]);
  known = () => Promise.resolve([]);
  forget = () => Promise.resolve();
  photographs = { keep: () => Promise.reject(new Error("practice")) };
}

export const NOTHING_SENT = {
  send: () => Promise.resolve(),
  pull() {},
  retry: () => Promise.resolve(),
  straight: () => Promise.resolve(false),
};

export const NOBODY_ELSE = { postMessage() {}, onmessage: null };
