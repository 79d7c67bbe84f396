// Folds events with a sheet: counts, compares, indexes and adds whole numbers, nothing else.
// The same machine as kessa_core.runs; the browser tests hold the two against each other.

import { ACTS } from "./acts.js";
import { awaits, kept, stands } from "./determination.js";
import { FREE, isSample, ordered, sampleRole, trueTimed, UNTESTED, undone } from "./order.js";

export { kept } from "./determination.js";
export { isSample, lastStanding } from "./order.js";

const OFF = { plain: 0, "backed-off": 2, doubt: 1, beyond: 0, below: 0, absent: 0 };

// What was seen in half steps; null where that is computed elsewhere.
export function halves(stage, d) {
  if (stage.counts) return d.kind === "absent" ? 0 : 2 * d.count - OFF[d.kind];
  const slots = Object.entries(stage.weights);
  if (d.kind === "absent") return stage.halvesAtZero;
  if (!slots.length) return null;
  return Math.floor(
    slots.reduce(
      (sum, [slot, weight]) => sum + weight * (d.places[slot] ?? 0),
      stage.halvesAtZero,
    ) + 0.5,
  );
}

export function fold(sheet, events) {
  const inOrder = ordered(events);
  const gone = undone(inOrder);
  const machine = new Machine(sheet);
  for (const event of inOrder) {
    if (gone.has(event.id) || event.act === "undo" || event.act === "begin") continue;
    const current = machine.current;
    const free = FREE.includes(event.act);
    const held = event.v >= 2 && !free && current && !["", event.device].includes(current.holder);
    if (held || !machine.apply(trueTimed(event))) machine.state.ignored.push(event.id);
    else if (current && !current.holder && !free) current.holder = event.device;
  }
  return machine.state;
}

class State {
  spot = "step";
  step = "";
  finish = "";
  cause = "";
  reader = "";
  untested = "not-tested";
  at = 0;
  preparing = false;
  typed = {};
  accepted = [];
  ignored = [];
  moments = {};
  last = null;

  constructor(sheet) {
    this.stages = sheet.stages.map(({ id, base }) => ({
      id,
      dets: [],
      finish: "",
      cause: "",
      dilution: base,
      base,
      prepared: false,
    }));
  }

  get dets() {
    return this.stages.flatMap((stage) => stage.dets);
  }

  get stage() {
    return this.stages[this.at];
  }
}

export class Machine {
  constructor(sheet) {
    this.sheet = sheet;
    this.state = new State(sheet);
    if (sheet.before.length) this.state.step = sheet.before[0];
    else this.goOn();
  }

  get stage() {
    return this.sheet.stages[this.state.at];
  }

  get held() {
    return this.state.stage;
  }

  get current() {
    return currentOf(this.state);
  }

  steps() {
    return orderOf(this);
  }

  open(role) {
    const attempt = this.held.dets.filter((d) => d.role === role).length + 1;
    const diluted = isSample(role) || role === "spike" ? this.held.dilution : 1;
    this.held.dets.push({
      id: `${this.sheet.stages.length > 1 ? `${this.held.id}.` : ""}${role}-${attempt}`,
      stage: this.state.at,
      role,
      attempt,
      diluted,
      count: 0,
      start: 0,
      kind: "plain",
      checks: 0,
      ended: false,
      closed: false,
      rejected: "",
      times: [],
      places: {},
      raw: {},
      photos: {},
      again: {},
      at: "",
      holder: "",
      was: [],
    });
    if (this.stage.continues) this.goOnFrom(this.held.dets.at(-1));
    this.state.spot = "step";
    this.state.step = this.steps()[0];
  }

  // The count, or the start of the burette, of the stage before in the same flask.
  goOnFrom(d) {
    const before = this.state.stages[this.state.at - 1].dets.findLast(
      (one) => one.role === d.role && kept(one),
    );
    if (!before) return;
    if (this.stage.counts)
      Object.assign(d, { count: before.count, start: before.count, times: [...before.times] });
    if ("start" in before.places && !("start" in this.stage.slots))
      d.places = { start: before.places.start };
  }

  openSample(role) {
    if (this.stage.prepare.length && !this.held.prepared) this.prepare();
    else this.open(role);
  }

  prepare() {
    this.held.prepared = false;
    this.state.preparing = this.stage.prepare.length > 0;
    Object.assign(this.state, { spot: "step", step: this.steps()[0] });
  }

  prepareAgain(cause) {
    if (this.current) this.current.rejected = cause;
    this.prepare();
  }

  at(kind) {
    return this.state.spot === "step" && this.sheet.steps[this.state.step].kind === kind;
  }

  mark(event) {
    this.state.last = { at: event.at, step: this.state.step };
    this.state.moments[this.state.step] = event.at;
  }

  done(event) {
    this.mark(event);
    const steps = this.steps();
    const next = steps[steps.indexOf(this.state.step) + 1];
    if (next) this.state.step = next;
    else if (!this.current) {
      this.held.prepared ||= this.state.preparing;
      this.goOn();
    }
  }

  strike(cause) {
    const current = this.current;
    if (!current) return;
    current.rejected = cause;
    const [first] = this.stage.flask;
    for (const { dets } of this.state.stages.slice(first, this.state.at)) {
      const earlier = dets.findLast((d) => d.role === current.role && kept(d));
      if (earlier) earlier.rejected = cause;
    }
    this.state.at = first;
    this.open(current.role);
  }

  samples(at = this.state.at) {
    return this.standing(at).filter(kept);
  }

  // Measurements of the sample, diluted as it now is, read or not.
  standing(at = this.state.at) {
    const held = this.state.stages[at];
    return held.dets.filter((d) => isSample(d.role) && stands(d) && d.diluted === held.dilution);
  }

  has(role, at = this.state.at) {
    return this.state.stages[at].dets.some((d) => d.role === role && stands(d));
  }

  of(role) {
    return this.held.dets.filter((d) => d.role === role && kept(d));
  }

  passes(blank, stage = this.stage) {
    return blank.kind !== "beyond" && halves(stage, blank) <= stage.rules.blankHalves;
  }

  fail(blank) {
    blank.rejected = this.stage.words.failedNote;
    Object.assign(this.state, { spot: "blank-failed", step: "" });
  }

  settle(d) {
    if (d.role === "blank") {
      if (kept(d) && !this.passes(d)) return this.fail(d);
    } else if (d.kind === "beyond" && isSample(d.role)) return this.endStage("beyond");
    return this.goOn();
  }

  agree(a, b, stage = this.stage) {
    const { agreeTo, agreeHalves } = stage.rules;
    if (agreeTo) return Math.max(a, b) <= agreeTo[Math.min(a, b)];
    return Math.abs(a - b) <= agreeHalves;
  }

  decide(counts, stage = this.stage) {
    if (counts.length < 2) return counts.length && stage.rules.least === 1 ? "done" : "more";
    const agree = (a, i) => counts.some((b, j) => i < j && this.agree(a, b, stage));
    if (counts.some(agree)) return "done";
    return counts.length < 3 ? "more" : "not-repeatable";
  }

  goOn() {
    this.state.preparing = false;
    if (this.stage.flask.length > 1) return this.goOnInFlask();
    for (const role of this.stage.roles) {
      if (this.has(role)) continue;
      if (role === "blank" && this.held.dets.some((d) => d.role === "blank")) {
        return Object.assign(this.state, { spot: "blank-failed", step: "" });
      }
      return this.open(role);
    }
    const samples = this.samples();
    if (samples.some((d) => d.kind === "beyond")) return this.endStage("beyond");
    if (samples.some((d) => ["absent", "below"].includes(d.kind))) return this.endStage("done");
    const standing = this.standing();
    let decision = this.decide(samples.map((d) => halves(this.stage, d)));
    if (standing.some(awaits))
      decision = standing.length < this.stage.rules.least ? "more" : "done";
    if (decision === "more") return this.openSample(sampleRole(standing.length));
    if (decision !== "done") return this.endStage(decision);
    if (this.stage.spike && !this.has("spike")) return this.open("spike");
    return this.endStage(this.held.dets.some(awaits) ? "awaiting" : "done");
  }

  // The next measurement of stages that are titrated in one flask, or their end.
  goOnInFlask() {
    const { flask } = this.stage;
    const { stages } = this.state;
    const sheets = flask.map((at) => this.sheet.stages[at]);
    for (const role of sheets[0].roles) {
      const at = flask.find(
        (one, i) =>
          sheets[i].roles.includes(role) &&
          !stages[one].dets.some((d) => d.role === role && kept(d)),
      );
      if (at === undefined) continue;
      this.state.at = at;
      if (role === "blank" && stages[at].dets.some((d) => d.role === "blank"))
        return Object.assign(this.state, { spot: "blank-failed", step: "" });
      return this.open(role);
    }
    const samples = flask.map((at) => this.samples(at));
    if (samples.flat().some((d) => d.kind === "beyond")) return this.endStage("beyond");
    const decisions = samples.map((dets, i) =>
      this.decide(
        dets.map((d) => halves(sheets[i], d)),
        sheets[i],
      ),
    );
    const fewest = Math.min(...samples.map((dets) => dets.length));
    const behind = flask.filter((_, i) => samples[i].length === fewest);
    if (behind.length < flask.length || decisions.includes("more")) {
      this.state.at = behind[0];
      return this.openSample(sampleRole(fewest));
    }
    for (const [i, at] of flask.entries()) stages[at].finish = decisions[i];
    return this.after(flask);
  }

  endStage(how, cause = "") {
    Object.assign(this.held, { finish: how, cause });
    const { flask } = this.stage;
    for (const at of flask)
      if (!this.state.stages[at].finish)
        Object.assign(this.state.stages[at], {
          finish: "not-tested",
          cause: this.sheet.words.ranOut,
        });
    this.after(flask);
  }

  after(flask) {
    if (flask.at(-1) + 1 < this.sheet.stages.length)
      Object.assign(this.state, { spot: "stage-end", step: "" });
    else this.endRun();
  }

  endRun() {
    const stages = this.state.stages;
    const { untested } = this.state;
    const cause = this.state.cause || this.sheet.words.notReached;
    for (const stage of stages)
      if (!stage.finish) Object.assign(stage, { finish: untested, cause });
    this.finishRun();
    Object.assign(this.state, { spot: "finished", step: "" });
  }

  // How the run ended, by how its stages did.
  finishRun() {
    const { stages, untested } = this.state;
    if (stages.length === 1) {
      const [{ finish, cause }] = stages;
      return Object.assign(this.state, { finish, cause });
    }
    if (stages.some(({ finish }) => finish === "awaiting")) this.state.finish = "awaiting";
    else if (stages.some(({ finish }) => !UNTESTED.includes(finish))) this.state.finish = "done";
    else this.state.finish = untested;
    return this.state;
  }

  giveUp(cause) {
    if (this.current) this.current.rejected = "stopped";
    this.state.cause = cause;
    this.endRun();
  }

  beginStage(at) {
    this.state.at = at;
    if (this.stage.continues) this.held.dilution = this.state.stages[at - 1].dilution;
    this.reopen();
  }

  reopen() {
    const { flask } = this.stage;
    for (const at of flask) Object.assign(this.state.stages[at], { finish: "", cause: "" });
    Object.assign(this.state, { finish: "", cause: "" });
    for (const later of this.state.stages.slice(flask.at(-1) + 1))
      if (UNTESTED.includes(later.finish) && !later.dets.length)
        Object.assign(later, { finish: "", cause: "" });
  }

  reconsider(at) {
    if (!this.stage.flask.includes(at)) {
      this.endAnew(at);
      return this.state.finish && this.finishRun();
    }
    const { spot, step } = this.state;
    for (const blank of this.of("blank")) if (!this.passes(blank)) this.fail(blank);
    const current = this.current;
    if (current?.holder) return Object.assign(this.state, { spot, step });
    if (current) this.held.dets.pop();
    this.held.prepared ||= this.samples().length > 0;
    const { finish, cause } = this.state;
    this.reopen();
    this.goOn();
    if (!finish || this.state.spot !== "stage-end") return;
    this.state.cause = cause;
    this.endRun();
  }

  // Every photograph of a stage that awaited its reading has been read: it ends as its readings lead.
  // No further measurement follows, since the sample is gone.
  allRead(at) {
    const held = this.state.stages[at];
    const stage = this.sheet.stages[at];
    if (held.finish !== "awaiting" || held.dets.some(awaits)) return;
    for (const blank of held.dets.filter((d) => d.role === "blank" && kept(d)))
      if (!this.passes(blank, stage)) {
        blank.rejected = stage.words.failedNote;
        held.cause = blank.rejected;
      }
    const lost = stage.roles.some(
      (role) => held.dets.some((d) => d.role === role) && !this.has(role, at),
    );
    if (lost || !this.samples(at).length)
      Object.assign(held, {
        finish: "not-tested",
        cause: held.cause || this.sheet.words.unreadable,
      });
    else this.endAnew(at);
    if (this.state.finish) this.finishRun();
  }

  endAnew(at) {
    const held = this.state.stages[at];
    const samples = this.samples(at);
    const stage = this.sheet.stages[at];
    const decision = this.decide(
      samples.map((d) => halves(stage, d)),
      stage,
    );
    if (held.dets.some(awaits)) held.finish = "awaiting";
    else if (samples.some((d) => d.kind === "beyond")) held.finish = "beyond";
    else if (samples.some((d) => ["absent", "below"].includes(d.kind))) held.finish = "done";
    else held.finish = decision === "done" ? "done" : "not-repeatable";
  }

  apply(event) {
    return Boolean(ACTS[event.act]?.(this, event));
  }
}

// The determination under way, if one is.
export function currentOf(state) {
  const last = state.stages[state.at].dets.at(-1);
  return last && !last.closed && !last.rejected ? last : null;
}

// The steps of the determination under way, or those before the first.
export function orderOf({ sheet, state }) {
  const current = currentOf(state);
  if (!current) return state.preparing ? sheet.stages[state.at].prepare : sheet.before;
  const sample = current.diluted > sheet.stages[state.at].base ? "diluted" : "sample";
  return sheet.stages[state.at].order[isSample(current.role) ? sample : current.role];
}

// The step at hand, in the words of the measurement under way.
export function stepOf({ sheet, state }) {
  const step = sheet.steps[state.step];
  const d = currentOf(state);
  if (!step?.worded || !d) return step;
  const diluted = d.diluted > sheet.stages[state.at].base && step.worded.diluted;
  const role = isSample(d.role) ? (diluted ? "diluted" : "sample") : d.role;
  return { ...step, ...step.worded[role] };
}

// Whether anything was done with the sample yet.
export const begun = (state) => Boolean(state.last) || state.dets.some((d) => d.count);

// What speaks against the sample and nobody has answered; nothing once the test has begun.
export function asksOf({ sheet, state }) {
  return state.spot !== "step" || begun(state)
    ? []
    : (sheet.asks ?? []).filter((one) => !state.accepted.includes(one.id));
}

// Seconds that the wait of a step lasts: as the instrument showed, as written, or looked up by the
// highest reading of the stage it names.
export function secondsOf(sheet, state, step) {
  const { wait } = sheet.steps[step];
  if (state.typed[step]) return state.typed[step];
  if (wait.rule === "typed") return 0;
  if (!wait.of) return wait.s;
  const at = sheet.stages.findIndex((stage) => stage.id === wait.of);
  const held = state.stages[at];
  const seen = held.dets.filter((d) => isSample(d.role) && kept(d) && d.diluted === held.dilution);
  if (!seen.length || held.dilution !== held.base || seen.some((d) => d.kind === "beyond"))
    return wait.s;
  const highest = Math.max(...seen.map((d) => halves(sheet.stages[at], d)));
  return wait.table.find(([to]) => highest <= to)?.[1] ?? wait.s;
}

// The state in one line, the same as kessa.bench.digest makes on the server.
export function digest(state) {
  const bit = (value) => (value ? 1 : 0);
  const read = (d) =>
    Object.entries(d.places)
      .map(([slot, n]) => `:${slot}=${n}`)
      .join("");
  const parts = state.dets.map(
    (d) =>
      `${d.id}:${d.count}:${d.kind}:${bit(d.ended)}${bit(d.closed)}${bit(d.rejected)}:${d.checks}${read(d)}` +
      (d.diluted > 1 ? `:x${d.diluted}` : ""),
  );
  return [`${state.spot}/${state.step}/${state.finish}`, ...parts].join("|");
}
