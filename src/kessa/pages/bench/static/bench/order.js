// Fold order and undo: which acts count, in which order. The same as kessa_core.runs.order.

import { localTime } from "./device.js";

const FIRM = ["correct", "take-over", "read-photo"];
export const FREE = ["note", "ask-again", "reader", ...FIRM];

// Ends without a reading.
export const UNTESTED = ["not-tested", "not-applicable"];

const CLOCK_OFF_MS = 60_000;

// An act with its time by the server's clock, where its device's was a minute or more off.
export function trueTimed(event) {
  const off = event.offset_ms ?? 0;
  if (Math.abs(off) < CLOCK_OFF_MS) return event;
  return { ...event, at: localTime(new Date(Date.parse(event.at) + off)) };
}

const compare = (a, b) => (a < b ? -1 : a > b ? 1 : 0);

export function ordered(events) {
  const once = new Map(events.map((event) => [event.id, event]));
  return [...once.values()].sort(
    (a, b) =>
      a.lamport - b.lamport || compare(a.device, b.device) || a.seq - b.seq || compare(a.id, b.id),
  );
}

export function undone(inOrder) {
  const place = new Map(inOrder.map((event, index) => [event.id, index]));
  const gone = new Set();
  for (let at = inOrder.length - 1; at >= 0; at -= 1) {
    const event = inOrder[at];
    if (event.act !== "undo" || gone.has(event.id)) continue;
    const target = place.get(event.data.event) ?? at;
    if (target < at && mayTakeBack(inOrder, target, at)) gone.add(inOrder[target].id);
  }
  return gone;
}

function mayTakeBack(inOrder, target, at) {
  const { v, device } = inOrder[at];
  const taken = inOrder[target];
  if (FIRM.includes(taken.act)) return false;
  if (v < 2 || taken.device === device) return true;
  return inOrder
    .slice(target + 1, at)
    .some((event) => event.act === "take-over" && event.device === device);
}

// The last act that still stands: what "undo" undoes. A correction is not undone here.
export function lastStanding(events) {
  const inOrder = ordered(events);
  const gone = undone(inOrder);
  return inOrder.findLast(
    (event) => !gone.has(event.id) && !["undo", "begin", ...FREE].includes(event.act),
  );
}

const SAMPLES = ["first", "second", "third"];

// Determinations of the sample itself, in the order in which they are done.
export const sampleRole = (number) => SAMPLES[number];
export const isSample = (role) => SAMPLES.includes(role);
