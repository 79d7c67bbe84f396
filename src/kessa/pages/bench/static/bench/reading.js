// The reading at hand: the drawn instrument, the plain field beside it, and what is asked before a
// doubtful figure is taken.

import { belowBefore } from "./acts.js";
import { outOfOrder } from "./determination.js";
import { Dial } from "./dial.js";
import { $, show } from "./dom.js";
import { halves, isSample, kept } from "./machine.js";
import { parse, rawOf, say, shown } from "./scale.js";

const fill = (text, values) => text.replace(/\{(\w+)\}/g, (_, name) => values[name] ?? "");

const dials = new Map();
let here = null; // the reading at hand: key, stage, slot, scale, dial, step
let sure = false;
let outside = false; // ">" was pressed where a figure has to follow

// The figure of a stage, and of one of its readings.
export function figureOf(method, stage, slot) {
  return document.querySelector(
    `[data-key="${CSS.escape(`${method}/${stage}`)}"][data-slot="${CSS.escape(slot)}"]`,
  );
}

function dialOf(figure, scale, words) {
  if (!figure?.querySelector("[data-dial]")) return null;
  if (!dials.has(figure)) dials.set(figure, new Dial(figure, scale, words, turned));
  return dials.get(figure);
}

function turned(n) {
  put(n);
  settle();
}

// Writes a place into the plain field.
function put(n) {
  const { scale } = here;
  mark(false);
  if (scale.labels) $("reading-place").value = n === null ? "" : rawOf(scale, n);
  else if (n !== null && (n > scale.high || n < scale.low))
    $("reading-figure").value = rawOf(scale, n);
  else {
    const { figure, unit } = n === null ? { figure: "", unit: scale.unit } : shown(scale, n);
    $("reading-figure").value = figure;
    if (scale.ranges && n !== null) $("reading-unit").value = unit;
  }
}

function typed() {
  const { scale } = here;
  if (scale.labels) return $("reading-place").value;
  const figure = $("reading-figure").value.trim();
  if (outside) return `>${figure.replace(/^>\s*/, "")}`;
  return scale.ranges && !/^[<>]$/.test(figure) ? `${figure}|${$("reading-unit").value}` : figure;
}

function settle() {
  sure = false;
  show($("reading-asked"), false);
  show($("reading-wrong"), false);
  $("reading-figure").removeAttribute("aria-invalid");
}

// Sets or takes away the ">" that stands before the figure of a scale that asks for one.
function mark(on) {
  outside = on;
  $("reading-over").setAttribute("aria-pressed", String(on));
  show($("reading-mark"), on);
}

// Something was typed: the instrument follows.
function follow() {
  settle();
  if (!here?.dial) return;
  const { scale } = here;
  const found = typed() === "" ? { error: "empty" } : parse(scale, typed());
  const top = scale.overAt === scale.low ? scale.low - 1 : scale.high + 1;
  const beside = { beyond: top, below: scale.low - 1 };
  const end = here.stage.overAnywhere ? undefined : beside[found.kind];
  here.dial.set(found.error ? null : Math.round(end ?? found.n), false);
}

function option(value, label) {
  return Object.assign(document.createElement("option"), { value, textContent: label });
}

// Opens the reading of the step at hand, once; *key* tells one reading from the next.
export function openReading(run, d) {
  const { sheet, state } = run;
  const step = sheet.steps[state.step];
  const stage = sheet.stages[state.at];
  const key = `${d.id}/${step.slot}/${state.step}`;
  if (here?.key === key) return;
  const scale = stage.slots[step.slot];
  const words = { over: stage.words.over, under: stage.words.under, unset: sheet.words.unset };
  const figure = figureOf(sheet.method.id, stage.id, step.slot);
  here = { key, run, sheet, stage, scale, slot: step.slot, d, dial: dialOf(figure, scale, words) };
  const places = scale.labels ?? [];
  const ends = [scale.under && option("<", words.under), scale.over && option(">", words.over)];
  const list = places.map((label, i) =>
    option(String(scale.low + i), `${label} ${scale.unit}`.trim()),
  );
  $("reading-place").replaceChildren(
    option("", sheet.words.choose),
    ...[ends[0], ...list, ends[1]].filter(Boolean),
  );
  $("reading-unit").replaceChildren(...(scale.ranges ?? []).map(({ unit }) => option(unit, unit)));
  show($("reading-place").closest(".in-label"), Boolean(scale.labels));
  show($("reading-figure").closest(".in-label"), !scale.labels);
  show($("reading-unit").parentElement, Boolean(scale.ranges));
  show($("reading-plain-unit"), !scale.ranges && !scale.labels);
  $("reading-plain-unit").textContent = scale.unit;
  for (const [name, end] of [
    ["over", scale.over],
    ["under", scale.under],
  ]) {
    const button = $(`reading-${name}`);
    show(button, Boolean(end) && !scale.labels);
    button.textContent = words[name];
  }
  here.dial?.set(null, false);
  put(null);
  settle();
}

function wrong(found, read) {
  const { scale, sheet } = here;
  const said = {
    raw: typed().replace("|", " "),
    low: say(scale, scale.low),
    high: say(scale, scale.high),
    step: say(scale, 1),
    unit: scale.unit,
    start: "start" in here.d.places ? say(scale, here.d.places.start) : "",
  };
  $("reading-figure").setAttribute("aria-invalid", "true");
  const keep = found.keep && (() => confirmed(read));
  if (found.suspected)
    return ask(
      fill(sheet.words.wrong.suspected, { ...said, said: found.suspected.said }),
      fill(sheet.words.itShowed, found.suspected),
      () => takeUp(found.suspected.raw),
      keep,
    );
  if (keep)
    return ask(
      fill(found.error === "step" ? sheet.words.finer : sheet.words.wrong.display, said),
      sheet.words.asTyped,
      keep,
    );
  $("reading-wrong").textContent = fill(sheet.words.wrong[found.error], said);
  show($("reading-wrong"), true);
}

function takeUp(raw) {
  const [figure, unit] = raw.split("|");
  $("reading-figure").value = figure;
  $("reading-unit").value = unit;
  follow();
}

// *keep*: take what was typed as it stands, beside the other answer.
function ask(words, yes, answer, keep = null) {
  $("reading-question").textContent = words;
  show($("reading-keep"), Boolean(keep));
  $("reading-keep").onclick = keep;
  const button = $("reading-yes");
  button.textContent = yes;
  button.onclick = answer;
  show($("reading-asked"), true);
  button.focus();
}

// Far from what is usual here: a slip of the decimal, or real.
function isFar(n) {
  const { stage, slot, d } = here;
  const last = Object.keys(stage.slots).at(-1);
  if (!stage.far || slot !== last || !isSample(d.role)) return false;
  const at = halves(stage, { ...d, kind: "plain", places: { ...d.places, [slot]: n } });
  return at !== null && (at <= stage.far[0] || at >= stage.far[1]);
}

// The first determination that stands, where this reading lies improbably far from it.
function unlikely(n) {
  const { stage, slot, d, run } = here;
  if (!stage.unlikely.length || slot !== Object.keys(stage.slots).at(-1) || !isSample(d.role))
    return null;
  const first = run.state.stages[run.state.at].dets.find(
    (one) => isSample(one.role) && kept(one) && one.kind === "plain" && one.diluted === d.diluted,
  );
  if (!first) return null;
  const [a, b] = [
    halves(stage, first),
    halves(stage, { ...d, kind: "plain", places: { ...d.places, [slot]: n } }),
  ];
  const apart = stage.unlikely.findLast(([from]) => from <= Math.min(a, b)) ?? stage.unlikely[0];
  return Math.abs(a - b) > apart[1] ? first : null;
}

// What is asked before a reading is taken, in words; empty where nothing is.
function question(found) {
  const { stage, sheet, scale, run, d } = here;
  if (found.kind !== "plain") return "";
  const raw = typed().replace("|", " ");
  const under = belowBefore(run, d, here.slot, found.n);
  if (under)
    return fill(sheet.words.below, {
      title: stage.title,
      raw,
      before: say(scale, under.n),
      was: under.title,
    });
  if (isFar(found.n)) return stage.far[2];
  const first = unlikely(found.n);
  return first
    ? fill(sheet.words.unlikely, {
        raw,
        first: Object.keys(stage.slots)
          .filter((slot) => slot in first.places)
          .map((slot) => say(stage.slots[slot], first.places[slot]))
          .join(", "),
      })
    : "";
}

function confirmed(read) {
  sure = true;
  take(read);
}

// Takes the reading when it can be one; asks first when it is doubtful.
function take(read) {
  if (!here) return;
  const raw = typed();
  if (raw === "") return wrong({ error: "empty" }, read);
  const found = parse(here.scale, raw, sure);
  if (found.error) return wrong(found, read);
  if (outOfOrder(here.stage, { ...here.d.places, [here.slot]: found.n }))
    return wrong({ error: "order" }, read);
  const asked = sure ? "" : question(found);
  if (asked) return ask(asked, here.sheet.words.asTyped, () => confirmed(read));
  here.key = "";
  read(raw, sure);
}

export function listenToReading(read) {
  $("reading").addEventListener("submit", (event) => {
    event.preventDefault();
    take(read);
  });
  for (const id of ["reading-figure", "reading-place", "reading-unit"])
    $(id).addEventListener("input", follow);
  $("reading").addEventListener("click", (event) => {
    const target = /** @type {HTMLElement} */ (event.target);
    const by = /** @type {HTMLElement} */ (target.closest("[data-move]"))?.dataset.move;
    if (by && here.dial) here.dial.move(Number(by));
    const end = { "reading-over": ">", "reading-under": "<" }[target.id];
    if (!end) return;
    if (end === ">" && here.scale.overAsks) {
      mark(!outside);
      $("reading-figure").focus();
    } else $("reading-figure").value = end;
    follow();
  });
}
