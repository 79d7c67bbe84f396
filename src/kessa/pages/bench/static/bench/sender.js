// Sends what waits, again and again until the server has named every act. Never redirects, never
// drops: whatever goes wrong leaves the queue as it is.
import {
  asDevice,
  asPerson,
  FIRST_PATIENCE_MS,
  MOST_PATIENCE_MS,
  pictureAsDevice,
  pictureAsPerson,
} from "./post.js";
import { hear, knownOffset, whenItJumps } from "./true-time.js";

const FIRST_WAIT = 1000;
const LONGEST_WAIT = 10000;
const BATCH = 200;
const TURN_MS = 20_000; // so long a page waits until another page of this device has sent

export class Sender {
  wait = FIRST_WAIT;
  batch = BATCH;
  most = BATCH;
  patience = FIRST_PATIENCE_MS;
  busy = false;
  again = false;
  resting = false;

  // told(status, waiting): "sent" | "sending" | "offline" | "signin" | "other" | "full" | "trouble", and for
  // that what is wrong;
  // answered(answer); since() -> {run: arrival}.
  // photographs: where pictures go; page: by which the acts of this page are known.
  constructor({ outbox, url, photographs, page, person, told, answered, since }) {
    this.outbox = outbox;
    this.page = page;
    this.url = url;
    this.photographs = photographs;
    this.person = person;
    this.told = told;
    this.answered = answered;
    this.since = since;
    addEventListener("online", () => this.retry());
    whenItJumps(() => this.ask());
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
      await this.inTurn();
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
    if (!this.busy && !this.resting && !document.hidden) await this.ask();
  }

  // What time it is and what other devices have sent; whether the server answered.
  async ask() {
    const left = performance.now();
    const { outcome, answer } = await asPerson(this.url, this.person, {
      events: [],
      since: this.since(),
    });
    if (outcome !== "ok") return false;
    hear(answer.now, left);
    this.answered(answer);
    return true;
  }

  // The pages of one device share what waits: one sends at a time. A page that has waited long for
  // its turn (the other may be asleep) sends all the same: an act that arrives twice counts once.
  async inTurn() {
    const { length } = await this.outbox.waiting();
    if (length) this.told("sending", length);
    if (!("locks" in navigator)) return this.sendAll();
    let granted = false;
    const work = async () => {
      granted = true;
      await this.sendAll(length > 0);
    };
    const turn = { signal: AbortSignal.timeout(TURN_MS) };
    try {
      await navigator.locks.request(`kessa-send/${this.outbox.owner}`, turn, work);
    } catch (error) {
      if (granted) throw error;
      await this.sendAll();
    }
  }

  // wanted: something waited before it was this page's turn; where another page has sent it, the
  // server's word on this page's runs is still to come.
  async sendAll(wanted = false) {
    for (let sent = 0; ; sent++) {
      const waiting = (await this.outbox.waiting()).sort(
        (a, b) => a.event.lamport - b.event.lamport,
      );
      if (!waiting.length) {
        if (wanted && !sent) await this.ask();
        return this.sendPhotographs();
      }
      this.told("sending", waiting.length);
      const { outcome, answer, wait } = await this.post(waiting.slice(0, this.batch));
      if (outcome === "big" || outcome === "slow") this.batch = Math.ceil(this.batch / 2);
      if (outcome === "big" && this.most > 1) {
        this.most = this.batch;
        continue;
      }
      if (outcome === "slow") {
        this.patience = Math.min(this.patience * 2, MOST_PATIENCE_MS);
        return this.rest("offline", answer, wait, waiting.length);
      }
      if (outcome !== "ok") return this.rest(outcome, answer, wait, waiting.length);
      this.batch = Math.min(this.batch * 2, this.most);
      this.patience = FIRST_PATIENCE_MS;
      this.wait = FIRST_WAIT;
      this.resting = false;
    }
  }

  // Something went wrong: the next attempt comes by itself, later each time.
  rest(outcome, answer, wait, waiting) {
    this.resting = true;
    this.failure = outcome;
    this.why = outcome === "trouble" ? answer?.error : "";
    this.told(outcome, waiting, this.why);
    this.timer = setTimeout(() => this.retry(), wait || this.wait);
    this.wait = Math.min(this.wait * 2, LONGEST_WAIT);
  }

  // After the acts, one by one: an act may name a picture that comes later, never the reverse.
  async sendPhotographs() {
    const { photographs } = this.outbox;
    const waiting = await photographs.waiting();
    for (const [at, row] of waiting.entries()) {
      this.told("sending", waiting.length - at);
      const got = await this.postPhotograph(row);
      if (!(await photographs.settle(row, got)))
        return this.rest(got.outcome, got.answer, got.wait, waiting.length - at);
    }
    this.wait = FIRST_WAIT;
    this.resting = false;
    this.told("sent", 0);
  }

  async postPhotograph(row) {
    const got = await pictureAsPerson(this.photographs, this.person, row);
    if (got.outcome !== "signin" && got.outcome !== "other") return got;
    const held = await this.outbox.token(row.visit);
    if (!held) return got;
    const sent = await pictureAsDevice(held.token, row);
    return sent.outcome === "signin" ? got : sent;
  }

  // As the person; where the sign-in has gone, with the capability of the visit.
  async post(rows) {
    if (knownOffset() === null) await this.ask();
    const left = performance.now();
    const body = { events: rows.map((row) => this.timed(row.event)), since: this.since() };
    let got = await asPerson(this.url, this.person, body, this.patience);
    if (got.outcome === "signin" || got.outcome === "other")
      got = await this.withCapability(rows, got);
    if (got.outcome !== "ok") return got;
    const { answer } = got;
    hear(answer.now, left);
    await this.outbox.sent(answer.kept);
    await this.outbox.refuse(answer.refused);
    this.answered(answer);
    return { outcome: answer.kept.length + answer.refused.length ? "ok" : "offline" };
  }

  // An act that this page made before it had heard what time it is, with what it has heard since.
  timed(event) {
    const known = event.offset_ms !== null || event.page !== this.page;
    return known ? event : { ...event, offset_ms: knownOffset() };
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
    const mine = rows.filter((row) => row.visit === visit);
    const events = mine.map((row) => this.timed(row.event));
    const got = await asDevice(held.token, { events, since: this.since() }, this.patience);
    return got.outcome === "signin" ? failed : got;
  }
}
