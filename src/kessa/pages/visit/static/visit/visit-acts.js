// Acts of a visit that this device makes: kept here first, sent when possible, known to every page.
import { askForCapability } from "../bench/capability.js";
import { deviceOf, localTime } from "../bench/device.js";
import { Outbox } from "../bench/outbox.js";
import { Sender } from "../bench/sender.js";
import { knownOffset } from "../bench/true-time.js";

const PATIENCE_MS = 4000; // so long a page waits to hear whether there is a network

export class Device {
  // page: the element that says whose visit this is. told(status, waiting): as a Sender has it.
  constructor(page, { told = () => {} } = {}) {
    this.facts = page.dataset;
    const { person, programme, visit, events, photographs } = this.facts;
    this.outbox = new Outbox(`${person}/${programme}`, visit);
    this.page = crypto.randomUUID();
    this.device = deviceOf(person);
    this.sender = new Sender({
      outbox: this.outbox,
      url: events,
      photographs,
      page: this.page,
      person,
      told,
      answered: () => {},
      since: () => ({}),
    });
  }

  // Permission to send after the sign-in has expired, asked for while there is one.
  async askForPermission() {
    if (!this.facts.capability) return "none";
    return askForCapability(this.outbox, /** @type {any} */ (this.facts), this.device);
  }

  // Whether the server takes what this person does here, and nothing waits to be sent before it.
  async isHeard() {
    if (!navigator.onLine) return false;
    if ((await this.outbox.waiting()).length) await this.soon(this.sender.retry());
    if ((await this.outbox.waiting()).length) return false;
    return Boolean(await this.soon(this.sender.ask()));
  }

  soon(promise) {
    const late = new Promise((resolve) => setTimeout(() => resolve(null), PATIENCE_MS));
    return Promise.race([promise, late]);
  }

  // Keeps an act for ever on this device until the server has it.
  async keep(act, sample, fields) {
    const event = {
      v: 1,
      id: crypto.randomUUID(),
      visit: Number(this.facts.visit),
      sample: sample ? Number(sample) : null,
      act,
      fields,
      device: this.device,
      seq: 0,
      lamport: act === "ended" ? Number.MAX_SAFE_INTEGER : 0,
      at: localTime(new Date()),
      mono_ms: Math.round(performance.now()),
      page: this.page,
      offset_ms: knownOffset(),
    };
    await this.outbox.keep(event);
    this.sender.retry();
    return event;
  }

  // What this device did on this visit, in order, sent or not.
  async acts() {
    const known = await this.outbox.known();
    const visit = Number(this.facts.visit);
    return known.filter((event) => event.visit === visit).sort((a, b) => a.seq - b.seq);
  }
}

// Where a sample stands by these acts: { outcome, reason, at, next }.
export function standing(acts, sample) {
  const found = { outcome: "", reason: "", at: "", next: "safety" };
  for (const { act, sample: of, fields } of acts) {
    if (String(of) !== String(sample)) continue;
    if (act === "safe") found.next = "context";
    if (act === "conditions") found.next = "sample";
    if (act === "taken") Object.assign(found, { outcome: "taken", at: fields.at.slice(-5) });
    if (act === "not-sampled") {
      const reason = [fields.reason, fields.more].filter(Boolean).join(": ");
      Object.assign(found, { outcome: "not-taken", reason });
    }
  }
  return found;
}
