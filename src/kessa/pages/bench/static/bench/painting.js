// Paints where a run stands: its step, count, clock or reading, what to watch, its results, the tape.

import { clockText } from "./clock-text.js";
import { dueText, holdLeft, readWithin, waitOf } from "./clocks.js";
import { paintCount, swirl } from "./counting.js";
import { $, find, findAll, made, show, text } from "./dom.js";
import { asksOf, begun, currentOf, isSample, kept, orderOf, stepOf } from "./machine.js";
import { UNTESTED } from "./order.js";
import { paintPicture } from "./pictures.js";
import { figureOf, openReading } from "./reading.js";
import { paintResult } from "./results.js";
import { said } from "./rows.js";
import { titleCounts } from "./signals.js";
import { nameOf, paintTape, unitOf } from "./tape.js";

const stageOf = ({ sheet, state }) => sheet.stages[state.at];

// What the stage at hand says where its scale ended, above or below, and the method that can go on
// from there; null where it did not end.
export function endOf({ sheet, state }) {
  const { rules, words } = sheet.stages[state.at];
  const held = state.stages[state.at];
  if (held.finish === "beyond")
    return {
      words: words.beyond,
      method: rules.next,
      dilute: held.dilution === held.base ? rules.dilute : [],
    };
  const under = held.dets.some((d) => d.kind === "below" && kept(d) && d.diluted === held.dilution);
  return held.finish === "done" && under && words.below
    ? { words: words.below, method: rules.finer, dilute: [] }
    : null;
}

function mayGoOn(run) {
  const end = endOf(run);
  return Boolean(end?.method || end?.dilute.length);
}

// Which part of the page the run stands at, as *device* sees it.
export function spotOf(run, device) {
  const { sheet, state } = run;
  if (![undefined, "", device].includes(currentOf(state)?.holder)) return "held";
  if (asksOf(run).length) return "asked";
  if (state.spot === "step") return sheet.steps[state.step].kind;
  if (state.spot === "finished" && mayGoOn(run)) return "beyond";
  return state.spot;
}

// Harm at a step and what is worn against it, in one line.
function careOf(sheet, { caution = "", gear }) {
  return `${caution} ${gear ? sheet.words.wear.replace("{gear}", gear.join(", ")) : ""}`.trim();
}

function heading(run, spot) {
  const { sheet, state } = run;
  const words = stageOf(run).words;
  const step = stepOf(run);
  const finish = state.spot === "stage-end" ? state.stages[state.at].finish : state.finish;
  if (spot === "held") return [sheet.words.held.title, sheet.words.held.lead];
  if (spot === "asked") return [asksOf(run)[0].what, asksOf(run)[0].do];
  if (step)
    return [
      step.times ? `${step.title}, ${step.times} times` : step.title,
      step.lead,
      careOf(sheet, step),
    ];
  if (spot === "reading") return [words.reading.title, words.reading.lead];
  if (spot === "blank-failed") return [words.failed.title, words.failed.lead];
  const end = ["stage-end", "finished"].includes(state.spot) && endOf(run);
  if (end) return [end.words.title, end.words.lead];
  if (finish === "not-repeatable") return [words.notRepeatable.title, words.notRepeatable.lead];
  if (finish === "awaiting") return [sheet.words.awaiting.title, sheet.words.awaiting.lead];
  if (UNTESTED.includes(finish)) return [sheet.words.untested[finish], state.cause];
  if (spot === "stage-end") return [words.ended.title, words.ended.lead];
  return [sheet.words.done, ""];
}

function eyebrow(run) {
  const { sheet, state } = run;
  const last = state.stages[state.at].dets.at(-1);
  const order = orderOf(run);
  if (asksOf(run).length) return `${sheet.method.short} · ${sheet.words.fit}`;
  const stage = sheet.stages.length > 1 ? ` · ${stageOf(run).title}` : "";
  const preparing = state.preparing && sheet.words.preparing;
  const name = preparing || (last ? nameOf(sheet.words, last) : sheet.words.before);
  const diluted =
    !preparing && last?.diluted > 1 ? `, ${sheet.words.diluted.replace("{by}", last.diluted)}` : "";
  const at = order.indexOf(state.step);
  const where = at < 0 ? "" : ` · ${at + 1} / ${order.length}`;
  return `${sheet.method.short}${stage} · ${name}${diluted}${where}`;
}

function paintAnswers({ sheet, state }, spot) {
  if (spot !== "check") return $("answers").replaceChildren();
  const answers = sheet.steps[state.step].answers.map((answer, index) => {
    const button = made("button", "");
    button.type = "button";
    button.className = `button is-medium wide${index ? "" : " is-primary"}`;
    Object.assign(button.dataset, { act: "answer", answer: answer.id });
    button.append(answer.label, " ", made("kbd", index + 1));
    return button;
  });
  $("answers").replaceChildren(...answers);
}

function strong(id, value, after = "") {
  const element = $(id);
  show(element, Boolean(value));
  element.replaceChildren(`${element.dataset.text} `, made("b", value), after);
}

function paintWatch(run, spot) {
  const { state } = run;
  const stage = stageOf(run);
  const sampled = ["count", "read"].includes(spot) && isSample(currentOf(state).role);
  const first = state.stages[state.at].dets.find((d) => d.role === "first" && kept(d));
  strong(
    "w-first",
    sampled && first && !stage.words.blind ? `${said(stage, first)} ${unitOf(stage, first)}` : "",
  );
  strong("w-usual", sampled ? stage.usual : "");
  strong("w-stop", spot === "count" ? stage.words.stopAt : "", `, ${stage.words.then}`);
}

// What changes by itself as seconds pass: the clock of a wait, how long a reading still counts.
export function paintClock(run, spot) {
  const left = readWithin(run);
  strong("w-within", left !== null && left >= 0 ? clockText(left) : "");
  show($("w-late"), left !== null && left < 0);
  const hold = holdLeft(run);
  strong("w-hold", hold === null ? "" : clockText(hold));
  show($("clock"), spot === "wait");
  show($("clock-typed"), false);
  if (spot !== "wait") return;
  const { wait, ran, left: rest, over, late, lasts, due, asks } = waitOf(run);
  show($("clock-typed"), asks || wait.rule === "computed");
  show($("clock"), !asks);
  if (asks) return;
  const counts = lasts > 0;
  text("clock-time", counts && rest > 0 ? clockText(rest) : clockText(counts ? ran - lasts : ran));
  text(
    "clock-says",
    $("clock-says").dataset[late ? "late" : !counts ? "ran" : rest > 0 ? "left" : "over"],
  );
  text("clock-words", wait.words);
  text("clock-until", wait.until ?? (wait.long ? dueText(due, $("clock-until").dataset) : ""));
  $("clock").dataset.state = late ? "late" : over || wait.early ? "over" : "running";
  const button = find('[data-act="time"]');
  const ready = over || wait.early;
  button.classList.toggle("is-primary", ready);
  text("time-label", button.dataset[wait.rule === "until" ? "until" : ready ? "over" : "early"]);
}

function paintFigure(run, spot) {
  const { sheet } = run;
  const stage = stageOf(run);
  const step = stepOf(run);
  const own =
    spot === "asked" || !step || ["count", "read"].includes(step.kind) || step.picture === "count";
  const slot = step?.slot ?? Object.keys(stage.slots).at(-1) ?? "";
  const shown = own ? figureOf(sheet.method.id, stage.id, slot) : null;
  for (const figure of document.querySelectorAll(".instrument")) show(figure, figure === shown);
  paintPicture(sheet, stage, step, own ? "" : (step.picture ?? (step.photo ? "photo" : "")));
  const turned = ["reading", "finished", "blank-failed", "stage-end", "beyond"].includes(spot);
  shown?.querySelector(".flask")?.classList.toggle("has-turned", turned);
  const drawn = shown || document.querySelector(".picture:not([hidden])");
  show(
    $("fig"),
    Boolean(drawn) && !["asked", "held", "finished", "stage-end", "beyond"].includes(spot),
  );
}

// The wrong test can be changed or cancelled until something was done with the sample.
function paintWrongTest(run) {
  show($("wrong-test"), !begun(run.state) && run.state.spot !== "finished");
}

function paintAids({ sheet, state }, spot) {
  const { aids = [], then } = (!["asked", "held"].includes(spot) && sheet.steps[state.step]) || {};
  text("then", then);
  $("aids").replaceChildren(...aids.map((aid) => made("li", aid)));
  show($("aids"), aids.length > 0);
}

function paintEnds(run, spot) {
  const { sheet, state } = run;
  const stage = stageOf(run);
  const next = sheet.stages[state.at + 1];
  const end = endOf(run);
  show($("go-on"), spot === "beyond" && Boolean(end?.method));
  if (end) $("go-on").firstChild.textContent = `${end.words.button} `;
  const on = document.querySelector('[data-act="stage"]');
  on.firstChild.textContent = `${sheet.words.nextStage.replace("{title}", next?.title ?? "")} `;
  const fresh =
    ["tick", "check", "count", "read", "wait"].includes(spot) &&
    currentOf(state)?.role === "first" &&
    !currentOf(state).holder;
  for (const box of document.querySelectorAll(".dilutions")) {
    const early = box.id === "dilute-first";
    const offered = early ? fresh && stage.rules.dilute : end?.dilute;
    const buttons = (offered || []).map((by) => {
      const button = made("button", stage.words.beyond.dilute.replace("{by}", by));
      button.type = "button";
      button.className = early ? "button is-light" : "button is-medium wide";
      Object.assign(button.dataset, { act: "dilute", by });
      return button;
    });
    box.replaceChildren(...buttons);
  }
}

function paintAll({ sheet, state }, spot) {
  const order = orderOf({ sheet, state });
  const rest = order.slice(order.indexOf(state.step));
  const stop = rest.find((id) => sheet.steps[id].kind !== "tick");
  const several = spot === "tick" && rest.indexOf(stop) > 1;
  show($("all"), several);
  if (several) text("all-label", sheet.words.allUpTo.replace("{title}", sheet.steps[stop].title));
}

// Whether what the measurements share can be prepared once more.
function mayPrepareAgain({ sheet, state }) {
  const ready = state.stages[state.at].prepared || state.preparing;
  const asked = ["step", "reading"].includes(state.spot);
  return ready && asked && sheet.stages[state.at].prepare.length > 0;
}

// What speaks against the sample: corrected, tested all the same, or not tested.
function paintAsked(run, spot) {
  if (spot !== "asked") return;
  const [{ what, prepare }] = asksOf(run);
  show($("put-right"), prepare);
  $("not-applicable").dataset.cause = what;
  $("not-applicable").classList.toggle("is-primary", !prepare);
}

function paintSuspects(stage) {
  const suspects = (stage.words.failed?.suspects ?? []).flatMap(({ what, do: doing }) => [
    made("dt", what),
    made("dd", doing),
  ]);
  $("suspects").replaceChildren(...suspects);
}

export function paintRun(run, runs, spot) {
  const { state } = run;
  const d = currentOf(state);
  const stage = stageOf(run);
  const [title, lead, caution] = heading(run, spot);
  const third = d?.role === "third" && state.step === stage.order.sample[0];
  text("eyebrow", eyebrow(run));
  if ($("title").textContent !== title) text("title", title);
  text("lead", third ? `${stage.words.third.lead} ${lead ?? ""}` : lead);
  show($("caution"), Boolean(caution));
  text("caution", caution);
  for (const box of findAll("[data-spot]")) show(box, box.dataset.spot === spot);
  show(document.querySelector(".after"), state.spot === "finished");
  paintCount(spot, d, stage);
  paintAnswers(run, spot);
  paintAids(run, spot);
  paintWrongTest(run);
  paintAsked(run, spot);
  if (spot === "read") openReading(run, d);
  paintWatch(run, spot);
  paintClock(run, spot);
  paintResult(run, spot);
  paintFigure(run, spot);
  paintEnds(run, spot);
  paintAll(run, spot);
  paintSuspects(stage);
  const { reader } = state;
  text("reader-now", reader && $("reader-now").dataset.other.replace("{name}", reader));
  const length = paintTape($("tape"), runs);
  text("tape-note", length ? String(length) : "");
  show($("causes"), Boolean(d));
  show($("prepare-again"), mayPrepareAgain(run));
  show($("stops"), state.spot !== "finished");
  paintTitle(run, spot);
  swirl(run, d);
}

export function paintTitle(run, spot) {
  const { sheet, state } = run;
  const lead =
    spot === "count"
      ? currentOf(state).count
      : spot === "wait"
        ? $("clock-time").textContent
        : null;
  document.title = `${lead !== null && titleCounts() ? `${lead} · ` : ""}${sheet.method.short} · Kessa`;
}
