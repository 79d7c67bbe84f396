// Sends what waits, again and again until the server has named every act. Never redirects, never
// drops: whatever goes wrong leaves the queue as it is.
import { asDevice, asPerson } from "./post.js";

const FIRST_WAIT = 1000;
const LONGEST_WAIT = 10000;
const BATCH = 200;

export class Sender {
  wait = FIRST_WAIT;
  batch = BATCH;
  busy = false;
  again = false;
  resting = false;
  offset = null;

  // told(status, waiting): "sent" | "sending" | "offline" | "signin" | "other" | "full" | "trouble", and for
  // that what is wrong;
  // answered(answer); since() -> {run: arrival}.
  constructor({ outbox, url, person, told, answered, since }) {
    this.outbox = outbox;
    this.url = url;
    this.person = person;
    this.told = told;
    this.answered = answered;
    this.since = since;
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
      return this.told(this.failure, waiting.length, this.why);
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

  // Ask what other devices have sent, when nothing else is going on.
  async pull() {
    if (this.busy || this.resting || document.hidden) return;
    const { outcome, answer } = await asPerson(this.url, this.person, {
      events: [],
      since: this.since(),
    });
    if (outcome === "ok") this.answered(answer);
  }

  async sendAll() {
    for (;;) {
      const waiting = (await this.outbox.waiting()).sort(
        (a, b) => a.event.lamport - b.event.lamport,
      );
      if (!waiting.length) return this.told("sent", 0);
      this.told("sending", waiting.length);
      const { outcome, answer, wait } = await this.post(waiting.slice(0, this.batch));
      if (outcome === "big" && this.batch > 1) {
        this.batch = Math.ceil(this.batch / 2);
        continue;
      }
      if (outcome !== "ok") {
        this.resting = true;
        this.failure = outcome;
        this.why = outcome === "trouble" ? answer?.error : "";
        this.told(outcome, waiting.length, this.why);
        this.timer = setTimeout(() => this.retry(), wait || this.wait);
        this.wait = Math.min(this.wait * 2, LONGEST_WAIT);
        return;
      }
      this.wait = FIRST_WAIT;
      this.resting = false;
    }
  }

  // As the person; where the sign-in has gone, with the capability of the visit.
  async post(rows) {
    const left = Date.now();
    const body = { events: rows.map((row) => row.event), since: this.since() };
    let got = await asPerson(this.url, this.person, body);
    if (got.outcome === "signin" || got.outcome === "other")
      got = await this.withCapability(rows, got);
    if (got.outcome !== "ok") return got;
    const { answer } = got;
    this.offset = Math.round(Date.parse(answer.now) - (left + Date.now()) / 2);
    await this.outbox.sent(answer.kept);
    await this.outbox.refuse(answer.refused);
    this.answered(answer);
    return { outcome: answer.kept.length + answer.refused.length ? "ok" : "offline" };
  }

  // Past a store that refuses it: whether the server has this act now.
  async straight(event) {
    const body = { events: [event], since: this.since() };
    const { outcome, answer } = await asPerson(this.url, this.person, body);
    if (outcome !== "ok") return false;
    this.answered(answer);
    return answer.kept.includes(event.id);
  }

  async withCapability(rows, failed) {
    const { visit } = rows[0];
    const held = await this.outbox.token(visit);
    if (!held) return failed;
    const events = rows.filter((row) => row.visit === visit).map((row) => row.event);
    const got = await asDevice(held.token, { events, since: this.since() });
    return got.outcome === "signin" ? failed : got;
  }
}
