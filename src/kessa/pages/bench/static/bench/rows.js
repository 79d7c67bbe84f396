// Looks rows up in a stage's tables: which reading, after which blank, says what. Whatever has no row
// is "later": kept, and the server's answer brings the words.
import { awaits } from "./determination.js";
import { halves, isSample, kept } from "./machine.js";
import { say } from "./scale.js";

// The key of the passed blank: its whole count, when it was plain; "-" where none is asked.
function blankKey(stage, held) {
  if (!stage.roles.includes("blank") || !stage.counts) return "-";
  const blank = held.dets.find((d) => d.role === "blank" && kept(d));
  return blank?.kind === "plain" ? String(blank.count) : null;
}

// Readings whose value only the server knows: diluted, less a reference, less a blank on a scale.
const onlyLater = (stage, held) =>
  held.dilution !== held.base || (!stage.counts && stage.rules.subtract);

// A scale too fine for rows: its figure as shown or listed, its verdict by sorted thresholds.
function band(sheet, stage, d) {
  const at = halves(stage, d);
  const [slot, scale] = Object.entries(stage.slots).at(-1);
  const figure = stage.shown ? say(scale, d.places[slot]) : stage.list?.[at / 2 - stage.first];
  if (figure === undefined) return null;
  const [, s, w, a] = stage.bands.findLast(([from]) => from <= at) ?? stage.bands[0];
  return { f: figure, u: stage.u, r: "", s, w, a, g: null, k: "", t: [sheet.words.rangeLater] };
}

// A bound that was read elsewhere than at the end of its scale ("> 1.2" of a display that goes to 6),
// or that begins elsewhere (a burette that was not full).
function offItsEnd(stage, d) {
  if (d.kind !== "beyond" || stage.counts) return false;
  const [slot, scale] = Object.entries(stage.slots).at(-1);
  const beside = Object.keys(stage.weights).some((other) => other !== slot && d.places[other]);
  return beside || d.places[slot] !== (scale.overAt ?? scale.high);
}

// Read finer than the scale's step: its value is computed, not listed.
const between = (d) => Object.values(d.places).some((n) => !Number.isInteger(n));

export function single(sheet, state, d) {
  const stage = sheet.stages[d.stage];
  const held = state.stages[d.stage];
  const blank = blankKey(stage, held);
  if (
    !blank ||
    awaits(d) ||
    !isSample(d.role) ||
    onlyLater(stage, held) ||
    between(d) ||
    offItsEnd(stage, d)
  )
    return null;
  if (["beyond", "below", "absent"].includes(d.kind))
    return stage[d.kind]?.[d.kind === "beyond" ? blank : "-"] ?? null;
  if (stage.counts) return stage.single?.[`${blank}:${d.kind}:${d.count}`] ?? null;
  if (stage.single) return stage.single[`-:plain:${halves(stage, d)}`] ?? null;
  return stage.bands ? band(sheet, stage, d) : null;
}

// The row of a stage that has ended; null where it is later or there is none.
export function final(sheet, state, at) {
  const stage = sheet.stages[at];
  const held = state.stages[at];
  const blank = blankKey(stage, held);
  if (!blank || !["done", "beyond"].includes(held.finish) || onlyLater(stage, held)) return null;
  const samples = held.dets.filter(
    (d) => isSample(d.role) && kept(d) && d.diluted === held.dilution,
  );
  const outside = samples.find((d) => ["beyond", "below", "absent"].includes(d.kind));
  if (outside) return single(sheet, state, outside);
  if (stage.rules.least === 1 && samples.length === 1) return single(sheet, state, samples[0]);
  if (samples.some(between)) return null;
  if (samples.length !== 2 || stage.rules.first || samples.some((d) => d.kind !== "plain"))
    return null;
  const measure = (d) => (stage.counts ? d.count : halves(stage, d));
  const [low, high] = samples.map(measure).sort((a, b) => a - b);
  return stage.pair?.[`${blank}:${low}:${high}`] ?? null;
}

// The reported reading as a person says it: 7, or 6 or 7; what a scale showed.
export function said(stage, d) {
  if (stage.counts) {
    if (d.kind === "doubt") return `${d.count - 1}–${d.count}`;
    return d.kind === "absent" ? "0" : String(halves(stage, d) / 2);
  }
  const scales = Object.entries(stage.slots);
  const last = scales.at(-1)[1];
  if (d.kind === "beyond") return `> ${say(last, d.places[scales.at(-1)[0]] ?? last.high)}`;
  if (d.kind === "below") return `< ${say(last, last.low)}`;
  const parts = scales
    .filter(([slot]) => slot in d.places)
    .map(([slot, scale]) => shown(scale, d, slot));
  return parts.join(" · ");
}

function shown(scale, d, slot) {
  const raw = String(d.raw[slot]);
  if (scale.ranges)
    return raw.includes("|") ? raw.replace("|", " ") : `${raw} ${scale.ranges[0].unit}`;
  return say(scale, d.places[slot]);
}
