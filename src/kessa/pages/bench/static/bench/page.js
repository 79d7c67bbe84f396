// Runs the tests of one sample: records actions, stores them, renders the state.

import { askForCapability } from "./capability.js";
import { holdOf, waitOf } from "./clocks.js";
import { deviceOf, localTime } from "./device.js";
import { $, show, text } from "./dom.js";
import { keepClock } from "./kept-clocks.js";
import { listen } from "./keys.js";
import { asksOf, currentOf, digest, fold, lastStanding, orderOf } from "./machine.js";
import {
  tellCountedOut,
  tellDifferences,
  tellNotKept,
  tellRefused,
  tellWhereKept,
} from "./notices.js";
import { Outbox } from "./outbox.js";
import { endOf, paintClock, paintRun, paintTitle, spotOf } from "./painting.js";
import { listenToPhotographs, offerPhotograph } from "./photo-field.js";
import { NOBODY_ELSE, NOTHING_SENT, NothingKept } from "./practice.js";
import { listenToReading } from "./reading.js";
import { paintRibbon } from "./ribbon.js";
import { final } from "./rows.js";
import { Sender } from "./sender.js";
import { listenToSwitches, practised, signal } from "./signals.js";
import { storeThisPage } from "./stored.js";
import { askForNotices, followTimer } from "./timer.js";
import { knownOffset, trueNow } from "./true-time.js";
import { hideUndo, offerUndo } from "./undo.js";

const main = $("main");
const payload = JSON.parse($("payload").textContent);
const PULL_EVERY = 10000;
const owner = `${main.dataset.person}/${main.dataset.programme}`;
const practice = main.dataset.practice === "yes";
const outbox = practice ? new NothingKept() : new Outbox(owner, main.dataset.visit);
const page = crypto.randomUUID();
const device = deviceOf(main.dataset.person);
const shared = practice ? NOBODY_ELSE : new BroadcastChannel("kessa-bench");

const runs = payload.runs.map((run) => ({ ...run, sheet: payload.sheets[run.method] }));
let waitingCount = 0;
let unsaved = false; // whether this browser has refused to save an act since the page was opened
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
  const method = event.data.method;
  if (!payload.sheets[method]) return null;
  const run = {
    id: event.run,
    method,
    sheet: payload.sheets[method],
    events: [],
    answer: null,
    rows: {},
  };
  runs.push(run);
  return run;
}

export function act(name, data = {}, run = now().id) {
  const lamport =
    Math.max(0, ...runs.flatMap((one) => one.events.map((event) => event.lamport))) + 1;
  const event = {
    v: 2,
    id: crypto.randomUUID(),
    run,
    act: name,
    data,
    device,
    seq: 0,
    lamport,
    at: localTime(new Date()),
    mono_ms: Math.round(performance.now()),
    page,
    offset_ms: knownOffset(),
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
      if (!practice && !pending) noteState(now());
      shared.postMessage(event);
      sender.send();
    },
    () => notKept(event),
  );
}

// The browser refused to save an act: the server takes it at once, or it does not count here either.
async function notKept(event) {
  unsaved = true;
  tellNotKept("trying");
  const sent = await sender.straight(event);
  pending -= 1;
  if (!sent) {
    if (event.act === "begin")
      runs.splice(
        runs.findIndex((run) => run.id === event.run),
        1,
      );
    leaveOut(new Set([event.id]));
    paint();
  }
  tellNotKept(sent ? "straight" : "lost");
  told(sent ? "sent" : "lost", waitingCount);
}

// An act that ends a stage carries the result that this page shows for it.
function noteShown(event) {
  const { sheet, state } = now();
  const row = state.stages[state.at].finish && final(sheet, state, state.at);
  if (!row?.f) return;
  Object.assign(
    event.shown,
    { f: row.f, s: row.s, stage: sheet.stages[state.at].id },
    row.r ? { r: row.r } : {},
  );
}

function signalOf(name) {
  const { state, sheet } = now();
  const stage = sheet.stages[state.at];
  const full = stage.counts && current()?.count >= stage.rules.max;
  if (name === "drop" && !full) return "counted";
  return full || ["finished", "blank-failed", "stage-end"].includes(state.spot) ? "stop" : "";
}

// A second tap so soon is the same drop; said once.
const ONE_TAP_MS = 150;
let tapped = -ONE_TAP_MS;
function drop() {
  const at = performance.now();
  if (at - tapped < ONE_TAP_MS) return show($("two-taps"), true);
  tapped = at;
  act("drop");
}

export const acts = {
  tick: () => act("tick", { step: now().state.step }),
  drop,
  end: () => act("end"),
  beyond: () => act("beyond"),
  next: () => act("next"),
  again: () => act("again"),
  "back-off": () => act(current()?.kind === "backed-off" ? "plain" : "back-off"),
  doubt: () => act(current()?.kind === "doubt" ? "plain" : "doubt"),
  "check-drop": () => act("check-drop"),
  "go-on": () =>
    act("begin", { continues: now().id, method: endOf(now()).method }, crypto.randomUUID()),
  time: () => act("time", { step: now().state.step }),
  stage: () => act("stage"),
  dilute: (button) => act("dilute", { by: Number(button.dataset.by) }),
  all: () => {
    const { sheet, state } = now();
    const order = orderOf(now());
    const rest = order.slice(order.indexOf(state.step));
    const stop = rest.findIndex((id) => sheet.steps[id].kind !== "tick");
    for (const step of rest.slice(0, stop)) act("tick", { step });
  },
  "take-back": () => {
    const last = lastStanding(now().events);
    if (!last || spotOf(now(), device) === "held") return;
    if (last.device !== device) act("take-over");
    act("undo", { event: last.id });
    hideUndo();
  },
  accept: (button) => {
    const [{ id, what }] = asksOf(now());
    act("accept", { concern: id, what, how: button?.dataset.how ?? "done" });
  },
  "take-over": () => act("take-over"),
  "put-away": async () => {
    const refused = await outbox.refused();
    await outbox.forget(refused.map((row) => row.id));
    show($("refused"), false);
  },
  stop: (button) => {
    const { cause, finish } = button.dataset;
    const why = $("stops").contains(button) ? $("why").value.trim() : "";
    $("why").value = "";
    act("stop", { cause: why || cause, ...(finish && { finish }) });
    offerUndo(now().sheet.words.undo.ended);
  },
  flag: () => {
    const words = $("flag-words").value.trim();
    if (!words) return $("flag-words").focus();
    act("flag", { text: words });
    $("flag-words").value = "";
    text("flagged", $("flagged").dataset.said);
  },
  prepare: () => {
    act("prepare", {});
    offerUndo(now().sheet.words.undo.discarded);
  },
  reject: (button) => {
    act("reject", { cause: button.dataset.cause });
    offerUndo(now().sheet.words.undo.discarded);
  },
  answer: (button) => act("answer", { step: now().state.step, answer: button.dataset.answer }),
};

const current = () => currentOf(now().state);
const stageHere = () => now().sheet.stages[now().state.at];

main.addEventListener("click", (event) => {
  const target = /** @type {HTMLElement} */ (event.target);
  /** @type {HTMLButtonElement} */
  const button = target.closest("button[data-act]");
  if (!button || button.disabled) return;
  acts[button.dataset.act](button);
  if (event.detail > 0) button.blur();
});

$("typed").addEventListener("submit", (event) => {
  event.preventDefault();
  const typed = $("typed-count").value.trim();
  if (!/^\d+$/.test(typed) || Number(typed) > stageHere().rules.max)
    return $("typed-count").setAttribute("aria-invalid", "true");
  $("typed-count").removeAttribute("aria-invalid");
  $("typed-count").value = "";
  $("typed-count").blur();
  act("set", { count: Number(typed) });
});

// The seconds that an instrument shows for a wait.
$("clock-typed").addEventListener("submit", (event) => {
  event.preventDefault();
  const typed = $("clock-seconds").value.trim();
  const fits = /^\d{1,7}$/.test(typed) && Number(typed) > 0;
  $("clock-seconds").toggleAttribute("aria-invalid", !fits);
  if (!fits) return $("clock-seconds").focus();
  $("clock-seconds").value = "";
  act("clock", { step: now().state.step, seconds: Number(typed) });
});

// Who reads from now on; an empty name: who tests.
$("reader-form").addEventListener("submit", (event) => {
  event.preventDefault();
  act("reader", { name: $("reader-name").value.trim() });
  $("who-reads").open = false;
});

// A tablet in the figure: the next one is added, an earlier one is where the count goes back to.
main.addEventListener("click", (event) => {
  const target = /** @type {HTMLElement} */ (event.target);
  /** @type {HTMLElement} */
  const tablet = target.closest("[data-tablet]");
  if (!tablet || spotOf(now(), device) !== "count") return;
  const count = Number(tablet.dataset.tablet);
  if (count === current().count + 1) drop();
  else act("set", { count });
});

if (!practice)
  listenToPhotographs(async ({ key, blob }, { later, twice }) => {
    const { step } = now().state;
    await outbox.photographs.keep(key, blob);
    act("photo", { step, photo: key, ...(later && { later: 1 }), ...(twice && { twice: 1 }) });
  });

listenToReading((raw, sure) =>
  act("read", { step: now().state.step, raw, ...(sure ? { sure: 1 } : {}) }),
);

// ---- painting

function paint() {
  const run = now();
  for (const one of runs) one.rows = rowsOf(one);
  const spot = spotOf(run, device);
  main.dataset.now = spot;
  paintRun(run, runs, spot);
  if (spot === "read" && !practice)
    offerPhotograph(stageHere(), `${run.id}/${run.state.step}/${run.state.dets.length}`);
  tellCountedOut(runs, device);
  followTimer(timerOf(run, spot));
  if (!practice) keepClockOf(run);
  if (!practice && !pending) noteState(run);
  paintTime();
}

// What each stage and difference came to: the server's word where it read the same acts.
function rowsOf({ sheet, state, answer }) {
  const said = answer?.digest === digest(state) ? answer.results : {};
  const own = sheet.stages.map(({ id }, at) => [id, final(sheet, state, at)]);
  return { ...Object.fromEntries(own.filter(([, row]) => row)), ...said };
}

// A timer moves by itself.
function tickClock() {
  const run = now();
  const spot = spotOf(run, device);
  paintClock(run, spot);
  followTimer(timerOf(run, spot));
  if (spot === "wait") paintTitle(run, spot);
}

// The timer at hand that has an end; null where there is none. away: nobody stays for hours; the screen
// stays on for the last minutes only.
const STAY_S = 600;
function timerOf(run, spot) {
  const wait = spot === "wait" ? waitOf(run) : holdOf(run);
  if (!wait || wait.lasts <= 0 || wait.wait?.early) return null;
  const { over, left } = wait;
  const at = `${run.state.stages[run.state.at].dets.length}/${run.state.step ?? "hold"}`;
  const brief = spot !== "wait";
  const away = Boolean(wait.wait?.long) && left > STAY_S;
  const key = `${run.id}/${at}/${away}`;
  const tune = Number(main.dataset.tune ?? 0);
  return { key, left, over, brief, away, tune, title: $("title").textContent };
}

// The wait at hand, kept on this device for every other page.
function keepClockOf(run) {
  const wait = waitOf(run);
  if (!wait || wait.wait.attended) return keepClock(run.id, null);
  const { ran, lasts, wait: rule } = wait;
  const began = trueNow() - ran * 1000;
  keepClock(run.id, {
    run: run.id,
    short: run.sheet.method.short,
    title: run.sheet.steps[run.state.step].title,
    due: Math.round(began + lasts * 1000),
    until: rule.to === undefined ? null : Math.round(began + rule.to * 1000),
    look: lasts <= 0,
    address: location.pathname,
    shape: main.dataset.shape ?? "",
    tune: Number(main.dataset.tune ?? 0),
  });
}

// Where this test stands, for the page of its visit without a network; once all of it is durable.
function noteState({ id, state, sheet, rows }) {
  if (!state.stages.some(({ dets }) => dets.length)) return;
  const said = sheet.stages
    .map(({ id: stage }) => rows[stage]?.f && `${rows[stage].f} ${rows[stage].u ?? ""}`.trim())
    .filter(Boolean)
    .join("; ");
  localStorage[`kessa-test-${id}`] = JSON.stringify({ finish: state.finish ?? "", said });
}

// When the sample was taken: as this device noted it, where the page was kept before.
const noted = localStorage[`kessa-taken-${main.dataset.sample}`];
const taken = Date.parse(noted ?? $("age").dataset.taken);

function paintTime() {
  const minutes = Math.max(0, Math.floor((trueNow() - taken) / 60000));
  const age = $("age").dataset;
  const { within } = runs[0].sheet;
  const stale = within !== undefined && minutes > within && !runs[0].events.length;
  const said = minutes < 120 ? `${minutes} ${age.min}` : `${Math.floor(minutes / 60)} ${age.hour}`;
  text("age", said + (stale ? age.stale.replace("{n}", within) : ""));
  $("age").classList.toggle("late", stale);
  paintRibbon($("ribbon"), runs, taken);
}

function told(status, waiting, why = "") {
  if (practice) return text("sent", $("sent").dataset.practice);
  waitingCount = waiting;
  if (pending) status = "keeping";
  else if (unsaved && status === "sent") status = "straight";
  const said = $("sent").dataset;
  const words = said[status === "sending" ? "waiting" : status];
  const counted = waiting && !["sent", "keeping", "straight", "lost"].includes(status);
  $("sent").textContent =
    (counted ? `${waiting} ${words}` : words) + (why && status === "trouble" ? ` ${why}` : "");
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
    const settled =
      !pending && !waiting.some(({ event }) => runs.some((run) => run.id === event.run));
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
const sender = practice
  ? NOTHING_SENT
  : new Sender({
      outbox,
      url: main.dataset.events,
      photographs: main.dataset.photographs,
      page,
      person: main.dataset.person,
      told,
      answered,
      since,
    });
shared.onmessage = ({ data }) => {
  add(data);
  paint();
};
$("causes").append(
  ...now().sheet.words.causes.map((cause) => {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "button is-light";
    Object.assign(button.dataset, { act: "reject", cause });
    button.textContent = `${$("causes").dataset.reject}${cause}`;
    return button;
  }),
);
addEventListener("beforeunload", (event) => pending && event.preventDefault());
listen({ acts, spot: () => spotOf(now(), device) });
outbox.known().then(
  (known) => {
    const carried = new Set(runs.flatMap((run) => run.events.map((event) => event.id)));
    outbox.forget(known.filter((event) => carried.has(event.id)).map((event) => event.id));
    known.sort((a, b) => a.lamport - b.lamport).forEach(add);
    paint();
    main.dataset.ready = "yes";
    tellRefused(outbox);
    sender.send().then(() => knownOffset() ?? sender.pull());
    if (practice) return;
    askForCapability(outbox, main.dataset, device).then(
      (outcome) => (main.dataset.capable = outcome),
    );
  },
  () => {
    unsaved = true;
    tellNotKept("straight");
    told("sent", 0);
    main.dataset.ready = "yes";
  },
);
paint();
setInterval(paintTime, 5000);
setInterval(tickClock, 250);
setInterval(() => sender.pull(), PULL_EVERY);
const foldGuidance = () => (main.dataset.folded = practised() ? "yes" : "no");
foldGuidance();
listenToSwitches($("signals"), (kind) => {
  if (kind === "notice") askForNotices();
  foldGuidance();
  paint();
});
if (!practice) {
  const stored = storeThisPage(main.dataset.scope).catch(() => false);
  stored.then((kept) => (main.dataset.stored = kept ? "yes" : "no"));
  tellWhereKept(stored);
}
