// Plays the sheets of one sample's runs: takes acts, keeps them, paints what follows from them.
import { digest, fold, lastStanding } from "./machine.js";
import { Outbox } from "./outbox.js";
import { paintRibbon } from "./ribbon.js";
import { final, said } from "./rows.js";
import { gauge, SIGNS } from "./gauge.js";
import { Sender } from "./sender.js";
import { nameOf, paintTape } from "./tape.js";
import { listen } from "./keys.js";
import { storeThisPage } from "./stored.js";
import { askForCapability } from "./capability.js";
import { tellCountedOut, tellDifferences, tellRefused } from "./notices.js";
import { listenToSwitches, signal, titleCounts } from "./signals.js";

const $ = (id) => document.getElementById(id);
const main = $("main");
const payload = JSON.parse($("payload").textContent);
const PULL_EVERY = 10000;
const owner = `${main.dataset.person}/${main.dataset.programme}`;
const outbox = new Outbox(owner, main.dataset.visit);
const page = crypto.randomUUID();
const device = (localStorage.kessaDevice ??= crypto.randomUUID());
const shared = new BroadcastChannel("kessa-bench");

const runs = payload.runs.map((run) => ({ ...run, sheet: payload.sheets[run.method] }));
let waitingCount = 0;
let pending = 0; // acts painted and not yet durable on this device

const now = () => runs.at(-1);
const refold = (run) => (run.state = fold(run.sheet, run.events));
runs.forEach(refold);

function add(event) {
  let run = runs.find((one) => one.id === event.run);
  if (!run && event.act === "begin" && event.data.continues === now().id) run = join(event);
  if (!run || run.events.some((known) => known.id === event.id)) return;
  run.events.push(event);
  refold(run);
}

// A run begun on this device, to go on from one that ran out of range.
function join(event) {
  const method = now().sheet.next;
  const run = { id: event.run, method, sheet: payload.sheets[method], events: [], answer: null };
  runs.push(run);
  return run;
}

export function act(name, data = {}, run = now().id) {
  const lamport = Math.max(0, ...runs.flatMap((one) => one.events.map((event) => event.lamport))) + 1;
  const event = {
    v: 2, id: crypto.randomUUID(), run, act: name, data, device, seq: 0, lamport,
    at: local(new Date()), mono_ms: Math.round(performance.now()), page, offset_ms: sender.offset,
    shown: { sheet: now().sheet.id },
  };
  add(event);
  paint();
  noteShown(event);
  signal(signalOf(name));
  pending += 1;
  told("keeping", waitingCount);
  outbox.keep(event).then(
    () => {
      pending -= 1;
      shared.postMessage(event);
      sender.send();
    },
    () => told("broken", 0),
  );
}

// An act that ends the run carries the result that this page shows for it.
function noteShown(event) {
  const { sheet, state } = now();
  const row = state.spot === "finished" && final(sheet, state);
  if (row?.f) Object.assign(event.shown, { f: row.f, r: row.r, s: row.s });
}

function signalOf(name) {
  const { state, sheet } = now();
  const full = current()?.count >= sheet.rules.max;
  if (name === "drop" && !full) return "counted";
  return full || ["finished", "blank-failed"].includes(state.spot) ? "stop" : "";
}

// Wall time with the device's own offset to UTC.
function local(date) {
  const minutes = -date.getTimezoneOffset();
  const sign = minutes < 0 ? "-" : "+";
  const two = (n) => String(Math.abs(n)).padStart(2, "0");
  const shifted = new Date(date.getTime() + minutes * 60000).toISOString().slice(0, -1);
  return `${shifted}${sign}${two(Math.trunc(minutes / 60))}:${two(minutes % 60)}`;
}

export const acts = {
  tick: () => act("tick", { step: now().state.step }),
  drop: () => act("drop"),
  end: () => act("end"),
  beyond: () => act("beyond"),
  next: () => act("next"),
  again: () => act("again"),
  "back-off": () => act(current()?.kind === "backed-off" ? "plain" : "back-off"),
  doubt: () => act(current()?.kind === "doubt" ? "plain" : "doubt"),
  "check-drop": () => act("check-drop"),
  "go-on": () => act("begin", { continues: now().id, method: now().sheet.next }, crypto.randomUUID()),
  "take-back": () => {
    const last = lastStanding(now().events);
    if (!last || heldElsewhere()) return;
    if (last.device !== device) act("take-over");
    act("undo", { event: last.id });
  },
  "take-over": () => act("take-over"),
  read: async () => {
    const refused = await outbox.refused();
    await outbox.forget(refused.map((row) => row.id));
    show($("refused"), false);
  },
  stop: (button) => act("stop", { cause: button.dataset.cause }),
  reject: (button) => act("reject", { cause: button.dataset.cause }),
  answer: (button) => act("answer", { step: now().state.step, answer: button.dataset.answer }),
};

const current = () => {
  const last = now().state.dets.at(-1);
  return last && !last.closed && !last.rejected ? last : null;
};

const heldElsewhere = () => {
  const holder = current()?.holder;
  return Boolean(holder) && holder !== device;
};

main.addEventListener("click", (event) => {
  const button = event.target.closest("button[data-act]");
  if (!button || button.disabled) return;
  acts[button.dataset.act](button);
  if (event.detail > 0) button.blur();
});

$("typed").addEventListener("submit", (event) => {
  event.preventDefault();
  const text = $("typed-count").value.trim();
  if (!/^\d+$/.test(text) || Number(text) > now().sheet.rules.max) return $("typed-count").setAttribute("aria-invalid", "true");
  $("typed-count").removeAttribute("aria-invalid");
  $("typed-count").value = "";
  $("typed-count").blur();
  act("set", { count: Number(text) });
});

// ---- painting

const text = (id, words) => ($(id).textContent = words ?? "");
const show = (element, shown) => element.toggleAttribute("hidden", !shown);

function spotOf({ sheet, state }) {
  if (heldElsewhere()) return "held";
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
  const d = current();
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

function paintWatch({ sheet, state }) {
  const words = sheet.words;
  const strong = (id, value, after = "") => {
    const element = $(id);
    show(element, Boolean(value));
    element.replaceChildren(`${element.dataset.text} `, Object.assign(document.createElement("b"), { textContent: value }), after);
  };
  const counting = spotOf(now()) === "count" && current().role !== "blank";
  const first = state.dets.find((d) => d.role === "first" && d.closed && !d.rejected);
  strong("w-first", counting && first ? `${said(first)} ${words.drops}` : "");
  strong("w-usual", counting ? sheet.usual : "");
  strong("w-stop", spotOf(now()) === "count" ? words.stopAt : "", `, ${words.then}`);
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
  if (id) link.href = main.dataset.result.replace("/0/", `/${id}/`);
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
function swirl() {
  const d = current();
  const count = d ? d.count : 0;
  if (count > lastCount) {
    const svg = document.querySelector(".flask");
    svg.classList.remove("falling");
    svg.getBoundingClientRect();
    svg.classList.add("falling");
  }
  lastCount = count;
}

function paint() {
  const run = now();
  for (const one of runs) one.row = one.answer?.digest === digest(one.state) && one.answer.result ? one.answer.result : final(one.sheet, one.state);
  const spot = spotOf(run);
  main.dataset.now = spot;
  const [title, lead, caution] = heading(run, spot);
  const third = spot !== "finished" && run.state.dets.at(-1)?.role === "third" && run.state.step === run.sheet.order.sample[0];
  text("eyebrow", eyebrow(run));
  if ($("title").textContent !== title) text("title", title);
  text("lead", third ? `${run.sheet.words.third.lead} ${lead}` : lead);
  show($("caution"), Boolean(caution));
  text("caution", caution);
  for (const box of document.querySelectorAll("[data-spot]")) show(box, box.dataset.spot === spot);
  show(document.querySelector('[data-spot="finished"]'), spot === "finished");
  paintCount(run, spot);
  paintAnswers(run, spot);
  paintWatch(run);
  paintResult(run);
  paintFigure(run, spot);
  const suspects = run.sheet.words.failed.suspects.flatMap(({ what, do: doing }) => [
    Object.assign(document.createElement("dt"), { textContent: what }),
    Object.assign(document.createElement("dd"), { textContent: doing }),
  ]);
  $("suspects").replaceChildren(...suspects);
  const length = paintTape($("tape"), runs);
  text("tape-note", length ? String(length) : "");
  const d = current();
  show($("causes"), Boolean(d));
  show(document.querySelector('[data-act="stop"]'), run.state.spot !== "finished");
  document.title = `${d && spot === "count" && titleCounts() ? `${d.count} · ` : ""}${run.sheet.method.short} · Kessa`;
  tellCountedOut(runs, device);
  swirl();
  paintTime();
}

function paintTime() {
  const taken = Date.parse($("age").dataset.taken);
  const minutes = Math.max(0, Math.floor((Date.now() - taken) / 60000));
  const age = $("age").dataset;
  text("age", minutes < 120 ? `${minutes} ${age.min}` : `${Math.floor(minutes / 60)} ${age.hour}`);
  paintRibbon($("ribbon"), runs, taken);
}

function told(status, waiting) {
  waitingCount = waiting;
  if (pending && status !== "broken") status = "keeping";
  const said = $("sent").dataset;
  const words = said[status === "sending" ? "waiting" : status];
  const counted = waiting && !["sent", "keeping", "broken"].includes(status);
  $("sent").textContent = counted ? `${waiting} ${words}` : words;
  $("sent").dataset.state = status;
}

function answered(answer) {
  for (const [id, { events, arrival }] of Object.entries(answer.others ?? {})) {
    const run = runs.find((one) => one.id === id);
    events.forEach(add);
    if (run) run.arrival = arrival;
  }
  for (const [id, said] of Object.entries(answer.runs)) {
    const run = runs.find((one) => one.id === id);
    if (run) run.answer = said;
  }
  if (answer.refused.length) leaveOut(new Set(answer.refused.map((one) => one.id)));
  outbox.waiting().then((waiting) => {
    const settled = !pending && !waiting.some(({ event }) => runs.some((run) => run.id === event.run));
    tellDifferences(runs, settled);
  });
  paint();
}

// The server will not have these: they do not count here either, and the person reads why.
function leaveOut(ids) {
  for (const run of runs) {
    run.events = run.events.filter((event) => !ids.has(event.id));
    refold(run);
  }
  tellRefused(outbox);
}

const since = () => Object.fromEntries(runs.map((run) => [run.id, run.arrival ?? 0]));
const sender = new Sender({ outbox, url: main.dataset.events, person: main.dataset.person, told, answered, since });
shared.onmessage = ({ data }) => {
  add(data);
  paint();
};
$("causes").append(
  ...now().sheet.words.causes.map((cause) => {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "btn quiet";
    Object.assign(button.dataset, { act: "reject", cause });
    button.textContent = `${$("causes").dataset.reject}${cause}`;
    return button;
  }),
);
addEventListener("beforeunload", (event) => pending && event.preventDefault());
listen({ acts, spot: () => spotOf(now()) });
outbox.known().then(
  (known) => {
    const carried = new Set(runs.flatMap((run) => run.events.map((event) => event.id)));
    outbox.forget(known.filter((event) => carried.has(event.id)).map((event) => event.id));
    known.sort((a, b) => a.lamport - b.lamport).forEach(add);
    paint();
    main.dataset.ready = "yes";
    tellRefused(outbox);
    sender.send();
    askForCapability(outbox, main.dataset, device).then((outcome) => (main.dataset.capable = outcome));
  },
  () => told("broken", 0),
);
paint();
setInterval(paintTime, 5000);
setInterval(() => sender.pull(), PULL_EVERY);
listenToSwitches($("signals"), paint);
storeThisPage(main.dataset.scope).then(
  (kept) => (main.dataset.stored = kept ? "yes" : "no"),
  () => (main.dataset.stored = "no"),
);

// For the tests that hold this page against the core's own fold.
main.kessa = { ids: () => runs.flatMap((run) => run.events.map((event) => event.id)), act, pull: () => sender.pull(), digest: () => runs.map((run) => digest(run.state)), waiting: () => waitingCount };
