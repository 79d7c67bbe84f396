// What each act does to the machine; each answers whether it had a place. As kessa_core.runs.acts.
import { closed, here, kept, outOfOrder } from "./determination.js";
import { isSample, UNTESTED } from "./order.js";
import { photo, photoRead, secondReadingAsked } from "./photo-acts.js";
import { parse } from "./scale.js";

const counting = (m) => (m.at("count") ? m.current : null);
const reading = (m) => (m.state.spot === "reading" ? m.current : null);

// Whether a count is too low to be doubted, or to take one off.
function tooFew(m, kind, d) {
  if (kind === "doubt") return d.count < m.stage.rules.from + 1;
  return !d.count || (d.role === "blank" && d.count < 2);
}

function as(kind, least) {
  return (m) => {
    const d = reading(m);
    if (!d || (least && tooFew(m, kind, d))) return false;
    d.kind = kind;
    return true;
  };
}

// Where a titration that continues in one flask reads less than the stage before it ended at.
export function belowBefore({ sheet, state }, d, slot, n) {
  const stage = sheet.stages[state.at];
  if (!stage.continues || slot !== Object.keys(stage.slots).at(-1) || !isSample(d.role))
    return null;
  const before = state.stages[state.at - 1];
  const last = before.dets.findLast(
    (one) => isSample(one.role) && one.closed && !one.rejected && one.diluted === before.dilution,
  );
  if (!last) return null;
  const was = last.kind === "absent" ? 0 : last.places[slot];
  return n < was ? { n: was, title: sheet.stages[state.at - 1].title } : null;
}

function read(m, event) {
  const step = m.sheet.steps[m.state.step];
  const d = m.current;
  if (!here(m, "read", event) || !d) return false;
  const sure = Boolean(event.data.sure);
  const { n, kind, error } = parse(m.stage.slots[step.slot], String(event.data.raw), sure);
  if (error || outOfOrder(m.stage, { ...d.places, [step.slot]: n })) return false;
  if (!sure && belowBefore(m, d, step.slot, n)) return false;
  const slots = Object.keys(m.stage.slots);
  const last = slots.at(-1);
  d.places[step.slot] = n;
  d.raw[step.slot] = event.data.raw;
  if (kind !== "plain") d.kind = kind;
  d.at = event.at;
  if (kind === "beyond") d.places[last] = n;
  else if (step.slot !== last) {
    m.done(event);
    return true;
  }
  m.mark(event);
  d.ended = true;
  return closed(m, d);
}

function answer(m, event) {
  if (!here(m, "check", event)) return false;
  const chosen = m.sheet.steps[event.data.step].answers.find((one) => one.id === event.data.answer);
  if (!chosen) return false;
  const d = m.current;
  if (chosen.then === "next") m.done(event);
  else if (chosen.then === "again") m.strike(chosen.cause);
  else if (chosen.then === "prepare") m.prepareAgain(chosen.cause);
  else if (chosen.then === "absent" && d) {
    Object.assign(d, { kind: "absent", at: event.at });
    return closed(m, d);
  } else m.giveUp(chosen.cause ?? "");
  return true;
}

function dilute(m, { data }) {
  if (!m.stage.rules.dilute.includes(data.by)) return false;
  const ended = ["stage-end", "finished"].includes(m.state.spot);
  if (ended && m.held.finish === "beyond" && m.held.dilution === m.held.base) {
    m.reopen();
    firstDiluted(m, data.by);
    return true;
  }
  const d = m.current;
  const fresh = d && !d.holder && isSample(d.role);
  if (!fresh || m.held.dets.some((one) => isSample(one.role) && one.closed && !one.rejected))
    return false;
  m.held.dets.pop();
  firstDiluted(m, data.by);
  return true;
}

function firstDiluted(m, by) {
  const { flask } = m.stage;
  for (const at of flask) m.state.stages[at].dilution = by * m.state.stages[at].base;
  [m.state.at] = flask;
  m.openSample("first");
}

function putRight(m, at, d, { kind, drops, raw, slot, sure }) {
  const stage = m.sheet.stages[at];
  if (!stage.counts) {
    const slots = Object.keys(stage.slots);
    const name = slot || slots.at(-1);
    if (!slots.includes(name) || raw === undefined) return false;
    const found = parse(stage.slots[name], String(raw), Boolean(sure));
    if (found.error || outOfOrder(stage, { ...d.places, [name]: found.n })) return false;
    d.places = { ...d.places, [name]: found.n };
    d.raw = { ...d.raw, [name]: raw };
    d.kind = found.kind;
    return true;
  }
  if (drops === undefined || drops > stage.rules.max) return false;
  const { from } = stage.rules;
  if (drops < from || (drops < from + 1 && ["backed-off", "doubt"].includes(kind))) return false;
  Object.assign(d, { count: drops, kind, ended: true });
  return true;
}

function correct(m, { data }) {
  const d = m.state.dets.find((one) => one.id === data.determination);
  if (!d || !kept(d) || d.kind === "beyond" || UNTESTED.includes(m.state.finish)) return false;
  const was = { count: d.count, kind: d.kind, places: d.places, why: data.why };
  if (data.kind === "struck") d.rejected = data.why;
  else if (!putRight(m, d.stage, d, data)) return false;
  d.was.push(was);
  m.reconsider(d.stage);
  return true;
}

// Applies a change to what is there; false where nothing is.
function applied(subject, change) {
  if (!subject) return false;
  change(subject);
  return true;
}

export const ACTS = {
  tick: (m, event) => here(m, "tick", event) && applied(m, () => m.done(event)),
  time: (m, event) => here(m, "wait", event) && applied(m, () => m.done(event)),
  answer,
  read,
  drop(m, event) {
    const d = counting(m);
    if (!d || d.count >= m.stage.rules.max) return false;
    d.count += 1;
    d.times.push(event.at);
    return true;
  },
  set(m, event) {
    const d = counting(m);
    const { count } = event.data;
    if (!d || count > m.stage.rules.max || count < d.start) return false;
    d.times = [...d.times, ...Array(count).fill(event.at)].slice(0, count);
    d.count = count;
    return true;
  },
  end(m, event) {
    const d = counting(m);
    if (!d || (!d.count && m.stage.rules.from)) return false;
    m.mark(event);
    Object.assign(d, { ended: true, at: event.at });
    Object.assign(m.state, { spot: "reading", step: "" });
    return true;
  },
  beyond(m, event) {
    const d = counting(m);
    if (!d || d.count < m.stage.rules.max) return false;
    Object.assign(d, { ended: true, kind: "beyond", at: event.at });
    return closed(m, d);
  },
  plain: as("plain", false),
  "back-off": as("backed-off", true),
  doubt: as("doubt", true),
  "check-drop": (m) => applied(reading(m), (d) => (d.checks += 1)),
  next: (m) => (reading(m) ? closed(m, reading(m)) : false),
  again: (m) => m.state.spot === "blank-failed" && applied(m, () => m.open("blank")),
  stage(m) {
    if (m.state.spot !== "stage-end") return false;
    m.beginStage(m.stage.flask.at(-1) + 1);
    m.goOn();
    return true;
  },
  dilute,
  prepare(m, event) {
    const ready = m.stage.prepare.length && (m.held.prepared || m.state.preparing);
    if (!ready || !["step", "reading"].includes(m.state.spot)) return false;
    m.prepareAgain(event.data.cause || "repeated");
    return true;
  },
  clock(m, event) {
    const rule = here(m, "wait", event) && m.sheet.steps[m.state.step].wait.rule;
    const ok = rule === "typed" || rule === "computed";
    if (ok) m.state.typed[m.state.step] = event.data.seconds;
    return ok;
  },
  reject: (m, event) => applied(m.current, () => m.strike(event.data.cause || "rejected")),
  stop(m, event) {
    if (m.state.spot === "finished") return false;
    if (event.data.finish === "not-applicable") m.state.untested = "not-applicable";
    m.giveUp(event.data.cause || "stopped");
    return true;
  },
  note: () => true,
  flag: () => true,
  accept: (m, event) => applied(m, () => m.state.accepted.push(event.data.concern)),
  "take-over"(m, event) {
    if (m.current) m.current.holder = event.device;
    return true;
  },
  correct,
  photo,
  "read-photo": photoRead,
  "ask-again": secondReadingAsked,
  reader: (m, event) => applied(m.state, (state) => (state.reader = event.data.name ?? "")),
};
