// Looks rows up in the sheet: which reading, after which blank, says what. Whatever has no row is
// "later": kept, and the server's answer brings the words.
import { halves } from "./machine.js";

const kept = (d) => d.closed && !d.rejected;

export function passedBlank(state) {
  return state.dets.find((d) => d.role === "blank" && kept(d));
}

// The key of the passed blank: its whole drops, when it was plain.
function blankKey(state) {
  const blank = passedBlank(state);
  return blank && blank.kind === "plain" ? String(blank.count) : null;
}

export function single(sheet, state, d) {
  const blank = blankKey(state);
  if (!blank) return null;
  if (d.kind === "beyond") return sheet.beyond[blank] ?? null;
  return sheet.single[`${blank}:${d.kind}:${d.count}`] ?? null;
}

export function final(sheet, state) {
  const blank = blankKey(state);
  const samples = state.dets.filter((d) => d.role !== "blank" && kept(d));
  if (!blank) return null;
  if (state.finish === "beyond") return sheet.beyond[blank] ?? null;
  if (state.finish !== "done" || samples.length !== 2) return null;
  if (samples.some((d) => d.kind !== "plain")) return null;
  const [low, high] = samples.map((d) => d.count).sort((a, b) => a - b);
  return sheet.pair[`${blank}:${low}:${high}`] ?? null;
}

// The reported count of a reading, as a person says it: 7, or 6 or 7.
export function said(d) {
  if (d.kind === "doubt") return `${d.count - 1}–${d.count}`;
  return String(halves(d) / 2);
}
