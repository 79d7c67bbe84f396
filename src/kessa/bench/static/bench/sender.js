// Sends what waits, again and again until the server has named every act. Never redirects, never
// drops: whatever goes wrong leaves the queue as it is.

const FIRST_WAIT = 1000;
const LONGEST_WAIT = 10000;
const BATCH = 200;

const token = () => document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";

export class Sender {
  // told(status, waiting): "sent" | "sending" | "offline" | "signin" | "other"; answered(answer).
  constructor({ outbox, url, person, told, answered }) {
    Object.assign(this, { outbox, url, person, told, answered, wait: FIRST_WAIT, busy: false, again: false });
    this.offset = null;
    this.resting = false;
    addEventListener("online", () => this.retry());
    document.addEventListener("visibilitychange", () => document.hidden || this.retry());
  }

  // Try now, whatever the last attempt came to.
  retry() {
    this.resting = false;
    return this.send();
  }

  // Send what waits; after a failure new acts wait for the next attempt instead of making their own.
  async send() {
    if (this.resting) {
      const waiting = await this.outbox.waiting();
      return this.told(this.failure, waiting.length);
    }
    if (this.busy) {
      this.again = true;
      return;
    }
    this.busy = true;
    clearTimeout(this.timer);
    try {
      await this.sendAll();
    } finally {
      this.busy = false;
    }
    if (this.again) {
      this.again = false;
      this.send();
    }
  }

  async sendAll() {
    for (;;) {
      const waiting = (await this.outbox.waiting()).sort((a, b) => a.lamport - b.lamport);
      if (!waiting.length) return this.told("sent", 0);
      this.told("sending", waiting.length);
      const outcome = await this.post(waiting.slice(0, BATCH));
      if (outcome !== "ok") {
        this.resting = true;
        this.failure = outcome;
        this.told(outcome, waiting.length);
        this.timer = setTimeout(() => this.retry(), this.wait);
        this.wait = Math.min(this.wait * 2, LONGEST_WAIT);
        return;
      }
      this.wait = FIRST_WAIT;
      this.resting = false;
    }
  }

  async post(events) {
    let response, answer;
    const left = Date.now();
    try {
      response = await fetch(this.url, {
        method: "POST",
        redirect: "error",
        headers: { "Content-Type": "application/json", "X-CSRFToken": token(), "X-Kessa-Person": this.person },
        body: JSON.stringify({ events }),
        signal: AbortSignal.timeout(15000),
      });
      answer = await response.json();
    } catch {
      return "offline";
    }
    if (response.status === 401 || response.status === 403) return "signin";
    if (response.status === 409) return "other";
    if (!response.ok) return "offline";
    this.offset = Math.round(Date.parse(answer.now) - (left + Date.now()) / 2);
    const refused = answer.refused.map((one) => one.id);
    await this.outbox.sent(answer.kept);
    await this.outbox.forget(refused);
    this.answered(answer);
    return answer.kept.length + refused.length ? "ok" : "offline";
  }
}
