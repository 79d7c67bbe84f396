// Paints where a run stands: its step or count, what to watch, its result, the tape.
import { gauge, SIGNS } from "./gauge.js";
import { said } from "./rows.js";
import { titleCounts } from "./signals.js";
import { nameOf, paintTape } from "./tape.js";

const $ = (id) => document.getElementById(id);
const text = (id, words) => ($(id).textContent = words ?? "");
const show = (element, shown) => element.toggleAttribute("hidden", !shown);

// The determination under way, if one is.
export function currentOf(state) {
  const last = state.dets.at(-1);
  return last && !last.closed && !last.rejected ? last : null;
}

// Which part of the page the run stands at, as *device* sees it.
export function spotOf({ sheet, state }, device) {
  if (![undefined, "", device].includes(currentOf(state)?.holder)) return "held";
  if (state.spot === "step") return sheet.steps[state.step].kind;
  if (state.spot !== "finished") return state.spot;
  return state.finish === "beyond" && sheet.next ? "beyond" : "finished";
}

function heading({ sheet, state }, spot) {
  const words = sheet.words;
  const step = sheet.steps[state.step];
  if (spot === "held") return [words.held.title, words.held.lead];
  if (step) return [step.title, step.lead, step.caution];
  if (spot === "reading") return [words.reading.title, words.reading.lead];
  if (spot === "blank-failed") return [words.failed.title, words.failed.lead];
  if (state.finish === "beyond") return [words.beyond.title, words.beyond.lead];
  if (state.finish === "not-repeatable") return [words.notRepeatable.title, words.notRepeatable.lead];
  if (state.finish === "not-tested") return [words.stopped, state.cause];
  return [words.done, ""];
}

function eyebrow({ sheet, state }) {
  const last = state.dets.at(-1);
  const name = last ? nameOf(sheet.words, last) : sheet.words.before;
  const order = last && last.role !== "blank" ? sheet.order.sample : last ? sheet.order.blank : sheet.order.before;
  const at = order.indexOf(state.step);
  const where = at < 0 ? "" : ` · ${at + 1} / ${order.length}`;
  return `${sheet.method.short} · ${name}${where}`;
}

function paintCount({ sheet, state }, spot) {
  const d = currentOf(state);
  const shown = d && (spot === "count" || spot === "reading" || (spot === "held" && d.count));
  show($("count"), shown);
  if (!shown) return;
  text("n", spot === "reading" ? said(d) : d.count);
  const unit = $("unit");
  text("unit", d.count === 1 ? unit.dataset.one : unit.dataset.many);
  text("so", d.role === "blank" ? "" : sheet.running[d.count]);
  text("per", d.role === "blank" ? sheet.words.blankPer : sheet.words.perDrop);
  const full = d.count >= sheet.rules.max;
  const [add, , end, beyond] = document.querySelectorAll('[data-spot="count"] > button');
  show(add, !full);
  show(beyond, full);
  end.disabled = d.count === 0;
  const next = $("next-label");
  const label = { plain: next.dataset.drop, "backed-off": next.dataset.backedOff, doubt: next.dataset.doubt }[d.kind];
  next.textContent = (label ?? "").replace("{n}", d.count).replace("{m}", d.count - 1);
  text("doubt-label", `${d.count - 1} / ${d.count}`);
  const [, tooStrong, doubt] = document.querySelectorAll('[data-spot="reading"] > button');
  tooStrong.disabled = d.role === "blank" && d.count < 2;
  doubt.disabled = d.count < 2;
  tooStrong.setAttribute("aria-pressed", d.kind === "backed-off");
  doubt.setAttribute("aria-pressed", d.kind === "doubt");
  show($("checked"), d.checks > 0);
  text("checked", `${sheet.words.checkDrop}: ${d.checks}`);
}

function paintAnswers({ sheet, state }, spot) {
  if (spot !== "check") return $("answers").replaceChildren();
  const answers = sheet.steps[state.step].answers.map((answer, index) => {
    const button = document.createElement("button");
    button.type = "button";
    button.className = `btn big wide${index ? "" : " main"}`;
    button.dataset.act = "answer";
    button.dataset.answer = answer.id;
    button.append(answer.label, " ", Object.assign(document.createElement("kbd"), { textContent: index + 1 }));
    return button;
  });
  $("answers").replaceChildren(...answers);
}

function paintWatch({ sheet, state }, spot) {
  const words = sheet.words;
  const strong = (id, value, after = "") => {
    const element = $(id);
    show(element, Boolean(value));
    element.replaceChildren(`${element.dataset.text} `, Object.assign(document.createElement("b"), { textContent: value }), after);
  };
  const counting = spot === "count" && currentOf(state).role !== "blank";
  const first = state.dets.find((d) => d.role === "first" && d.closed && !d.rejected);
  strong("w-first", counting && first ? `${said(first)} ${words.drops}` : "");
  strong("w-usual", counting ? sheet.usual : "");
  strong("w-stop", spot === "count" ? words.stopAt : "", `, ${words.then}`);
}

function paintResult(run) {
  const { sheet, state } = run;
  const row = run.row;
  show($("result"), state.spot === "finished");
  if (state.spot !== "finished") return;
  show($("result").querySelector(".result-top"), Boolean(row?.f));
  if (row?.f) {
    text("r-figure", row.f);
    text("r-unit", row.u);
    text("r-range", row.r);
    $("r-gauge").replaceChildren(gauge(row));
    const sign = $("r-sign");
    sign.className = `sign ${row.s}`;
    sign.textContent = `${SIGNS[row.s]} ${row.w}${row.a ? ` · ${row.a}` : ""}`;
  }
  const missing = !row?.f && ["done", "beyond"].includes(state.finish);
  text("r-working", row?.k ?? (missing ? sheet.words.later : ""));
  const told = (row?.t ?? []).map((sentence) => Object.assign(document.createElement("p"), { className: "told", textContent: sentence }));
  $("r-told").replaceChildren(...told);
  const causes = state.finish === "not-repeatable" ? sheet.words.notRepeatable.causes : [];
  $("r-causes").replaceChildren(...causes.map((cause) => Object.assign(document.createElement("li"), { textContent: cause })));
  show($("r-waste"), true);
  text("r-waste", sheet.words.waste);
  const id = run.answer?.result?.id;
  const link = $("to-log");
  show(link, Boolean(id));
  show($("not-yet"), !id);
  if (id) link.href = $("main").dataset.result.replace("/0/", `/${id}/`);
}

function paintFigure({ sheet, state }, spot) {
  const wanted = sheet.steps[state.step]?.picture ?? "count";
  const flask = !["rinse", "fill", "reagent", "colour", "ph"].includes(wanted);
  for (const picture of document.querySelectorAll("[data-picture]")) show(picture, picture.dataset.picture === wanted);
  const svg = document.querySelector(".flask");
  show(svg, flask);
  svg.classList.toggle("has-turned", ["reading", "finished"].includes(spot) || spot === "blank-failed");
  show($("fig"), spot !== "finished");
}

let lastCount = 0;
function swirl({ state }) {
  const d = currentOf(state);
  const count = d ? d.count : 0;
  if (count > lastCount) {
    const svg = document.querySelector(".flask");
    svg.classList.remove("falling");
    svg.getBoundingClientRect();
    svg.classList.add("falling");
  }
  lastCount = count;
}

export function paintRun(run, runs, spot) {
  const { sheet, state } = run;
  const d = currentOf(state);
  const [title, lead, caution] = heading(run, spot);
  const third = spot !== "finished" && state.dets.at(-1)?.role === "third" && state.step === sheet.order.sample[0];
  text("eyebrow", eyebrow(run));
  if ($("title").textContent !== title) text("title", title);
  text("lead", third ? `${sheet.words.third.lead} ${lead}` : lead);
  show($("caution"), Boolean(caution));
  text("caution", caution);
  for (const box of document.querySelectorAll("[data-spot]")) show(box, box.dataset.spot === spot);
  paintCount(run, spot);
  paintAnswers(run, spot);
  paintWatch(run, spot);
  paintResult(run);
  paintFigure(run, spot);
  const suspects = sheet.words.failed.suspects.flatMap(({ what, do: doing }) => [
    Object.assign(document.createElement("dt"), { textContent: what }),
    Object.assign(document.createElement("dd"), { textContent: doing }),
  ]);
  $("suspects").replaceChildren(...suspects);
  const length = paintTape($("tape"), runs);
  text("tape-note", length ? String(length) : "");
  show($("causes"), Boolean(d));
  show(document.querySelector('[data-act="stop"]'), state.spot !== "finished");
  document.title = `${d && spot === "count" && titleCounts() ? `${d.count} · ` : ""}${sheet.method.short} · Kessa`;
  swirl(run);
}
