// Readings from photographs. As kessa_core.runs.photographed.
import { awaits, closed, here, outOfOrder, stands, unread } from "./determination.js";
import { parse } from "./scale.js";

export function photo(m, event) {
  const d = m.current;
  if (!here(m, "read", event) || !d || !m.stage.photo) return false;
  const { slot } = m.sheet.steps[m.state.step];
  d.photos[slot] = event.data.photo;
  if (!event.data.later) return true;
  d.at = event.at;
  if (slot !== Object.keys(m.stage.slots).at(-1)) {
    m.done(event);
    return true;
  }
  m.mark(event);
  d.ended = true;
  return closed(m, d);
}

export function photoRead(m, { data }) {
  const d = photographed(m, data);
  if (!d) return false;
  const stage = m.sheet.stages[d.stage];
  if (data.again) {
    const found = parse(stage.slots[data.slot], String(data.raw ?? ""), Boolean(data.sure));
    if (found.error || data.slot in d.again) return false;
    d.again[data.slot] = found.n;
    return true;
  }
  if (!unread(d).includes(data.slot)) return false;
  if (data.unreadable) d.rejected = `photograph: ${data.unreadable}`;
  else if (!readFrom(stage, d, data)) return false;
  if (awaits(d)) return true;
  const held = m.state.stages[d.stage];
  if (held.finish === "awaiting") m.allRead(d.stage);
  else if (!held.finish) m.reconsider(d.stage);
  return true;
}

export function secondReadingAsked(m, { data }) {
  const d = photographed(m, data);
  return Boolean(d) && !(data.slot in d.again);
}

const photographed = (m, { determination, slot }) =>
  m.state.dets.find((d) => d.id === determination && stands(d) && slot in d.photos);

function readFrom(stage, d, { slot, raw, sure }) {
  const { n, kind, error } = parse(stage.slots[slot], String(raw ?? ""), Boolean(sure));
  if (error || outOfOrder(stage, { ...d.places, [slot]: n })) return false;
  d.places[slot] = n;
  d.raw[slot] = raw ?? "";
  if (kind !== "plain") d.kind = kind;
  if (kind === "beyond") d.places[Object.keys(stage.slots).at(-1)] = n;
  return true;
}
