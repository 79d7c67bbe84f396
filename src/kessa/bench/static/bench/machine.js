// Folds events with a sheet: counts, compares, indexes and adds whole numbers, nothing else.
// The same machine as kessa_core.runs.fold; the browser tests hold the two against each other.

const SAMPLES = ["first", "second", "third"];
const HALVES_OFF = { plain: 0, "backed-off": 2, doubt: 1, beyond: 0 };

export function ordered(events) {
  const once = new Map(events.map((event) => [event.id, event]));
  return [...once.values()].sort(
    (a, b) =>
      a.lamport - b.lamport || compare(a.device, b.device) || a.seq - b.seq || compare(a.id, b.id),
  );
}

const compare = (a, b) => (a < b ? -1 : a > b ? 1 : 0);

const FIRM = ["correct", "take-over"];
const FREE = ["note", ...FIRM];

export function undone(inOrder) {
  const place = new Map(inOrder.map((event, index) => [event.id, index]));
  const gone = new Set();
  for (let at = inOrder.length - 1; at >= 0; at -= 1) {
    const event = inOrder[at];
    if (event.act !== "undo" || gone.has(event.id)) continue;
    const target = place.get(event.data.event) ?? at;
    if (target < at && mayTakeBack(inOrder, target, at)) gone.add(inOrder[target].id);
  }
  return gone;
}

function mayTakeBack(inOrder, target, at) {
  const { v, device } = inOrder[at];
  const taken = inOrder[target];
  if (FIRM.includes(taken.act)) return false;
  if (v < 2 || taken.device === device) return true;
  return inOrder.slice(target + 1, at).some((event) => event.act === "take-over" && event.device === device);
}

// The last act that still stands: what "take back" takes back. A correction is not taken back here.
export function lastStanding(events) {
  const inOrder = ordered(events);
  const gone = undone(inOrder);
  return inOrder.findLast((event) => !gone.has(event.id) && !["undo", "begin", ...FREE].includes(event.act));
}

export const halves = (d) => 2 * d.count - HALVES_OFF[d.kind];

export function fold(sheet, events) {
  const inOrder = ordered(events);
  const gone = undone(inOrder);
  const machine = new Machine(sheet);
  for (const event of inOrder) {
    if (gone.has(event.id) || event.act === "undo" || event.act === "begin") continue;
    const current = machine.current;
    const free = FREE.includes(event.act);
    const held = event.v >= 2 && !free && current && !["", event.device].includes(current.holder);
    if (held || !machine.apply(event)) machine.state.unfit.push(event.id);
    else if (current && !current.holder && !free) current.holder = event.device;
  }
  return machine.state;
}

class Machine {
  constructor(sheet) {
    this.sheet = sheet;
    this.state = { spot: "step", step: "", finish: "", cause: "", dets: [], flags: [], unfit: [] };
    if (sheet.order.before.length) this.state.step = sheet.order.before[0];
    else this.open("blank");
  }

  get current() {
    const last = this.state.dets.at(-1);
    return last && !last.closed && !last.rejected ? last : null;
  }

  stepsOf(role) {
    return role === "blank" ? this.sheet.order.blank : this.sheet.order.sample;
  }

  open(role) {
    const attempt = this.state.dets.filter((d) => d.role === role).length + 1;
    this.state.dets.push({
      role, attempt, count: 0, kind: "plain", checks: 0, ended: false, closed: false, rejected: "", times: [], at: "",
      holder: "", was: [],
    });
    this.state.spot = "step";
    this.state.step = this.stepsOf(role)[0];
  }

  advance() {
    const steps = this.current ? this.stepsOf(this.current.role) : this.sheet.order.before;
    const next = steps[steps.indexOf(this.state.step) + 1];
    if (next) this.state.step = next;
    else if (!this.current) this.open("blank");
  }

  at(kind) {
    return this.state.spot === "step" && this.sheet.steps[this.state.step].kind === kind;
  }

  strike(cause) {
    const current = this.current;
    current.rejected = cause;
    this.open(current.role);
  }

  finish(how, cause = "") {
    Object.assign(this.state, { spot: "finished", step: "", finish: how, cause });
  }

  samples() {
    return this.state.dets.filter((d) => SAMPLES.includes(d.role) && d.closed && !d.rejected);
  }

  blanks() {
    return this.state.dets.filter((d) => d.role === "blank" && d.closed && !d.rejected);
  }

  passes(blank) {
    return blank.kind !== "beyond" && halves(blank) <= this.sheet.rules.blankHalves;
  }

  fail(blank) {
    blank.rejected = this.sheet.words.failedNote;
    this.standAtBlank();
  }

  standAtBlank() {
    Object.assign(this.state, { spot: "blank-failed", step: "" });
  }

  settle(d) {
    if (d.role === "blank" && !this.passes(d)) this.fail(d);
    else if (d.kind === "beyond") this.finish("beyond");
    else this.goOn();
  }

  correct({ determination, drops, kind, why }) {
    const found = this.state.dets.find((d) => `${d.role}-${d.attempt}` === determination);
    if (!found || !found.closed || found.rejected || found.kind === "beyond") return false;
    if (this.state.finish === "not-tested" || drops > this.sheet.rules.max) return false;
    if (drops < 2 && ["backed-off", "doubt"].includes(kind)) return false;
    found.was.push({ count: found.count, kind: found.kind, why });
    if (kind === "struck") found.rejected = why;
    else Object.assign(found, { count: drops, kind });
    this.reconsider();
    return true;
  }

  reconsider() {
    const { spot, step } = this.state;
    for (const blank of this.blanks()) if (!this.passes(blank)) this.fail(blank);
    const current = this.current;
    if (current?.holder) return Object.assign(this.state, { spot, step });
    if (current) this.state.dets.pop();
    Object.assign(this.state, { finish: "", cause: "" });
    this.goOn();
  }

  goOn() {
    const rules = this.sheet.rules;
    if (!this.blanks().length) return this.standAtBlank();
    if (this.samples().some((d) => d.kind === "beyond")) return this.finish("beyond");
    const counts = this.samples().map(halves);
    const agree = counts.some((a, i) => counts.some((b, j) => i < j && Math.abs(a - b) <= rules.agreeHalves));
    if (agree) this.finish("done");
    else if (counts.length < 3) this.open(SAMPLES[counts.length]);
    else this.finish("not-repeatable");
  }

  apply(event) {
    const current = this.current;
    const counting = this.at("count") ? current : null;
    const reading = this.state.spot === "reading" ? current : null;
    const data = event.data;
    switch (event.act) {
      case "tick":
        if (!this.at("tick") || data.step !== this.state.step) return false;
        this.advance();
        return true;
      case "answer": {
        if (!this.at("check") || data.step !== this.state.step) return false;
        const answer = this.sheet.steps[data.step].answers.find((a) => a.id === data.answer);
        if (!answer) return false;
        if (answer.flag) this.state.flags.push(answer.flag);
        if (answer.then === "next") this.advance();
        else if (answer.then === "again") this.strike(answer.cause);
        else this.finish("not-tested", answer.cause);
        return true;
      }
      case "drop":
        if (!counting || counting.count >= this.sheet.rules.max) return false;
        counting.count += 1;
        counting.times.push(event.at);
        return true;
      case "set":
        if (!counting || data.count > this.sheet.rules.max) return false;
        counting.times = [...counting.times, ...Array(data.count).fill(event.at)].slice(0, data.count);
        counting.count = data.count;
        return true;
      case "end":
        if (!counting || !counting.count) return false;
        Object.assign(counting, { ended: true, at: event.at });
        this.state.spot = "reading";
        this.state.step = "";
        return true;
      case "beyond":
        if (!counting || counting.count < this.sheet.rules.max) return false;
        Object.assign(counting, { ended: true, closed: true, kind: "beyond", at: event.at });
        this.settle(counting);
        return true;
      case "plain":
        if (!reading) return false;
        reading.kind = "plain";
        return true;
      case "back-off":
        if (!reading || (reading.role === "blank" && reading.count < 2)) return false;
        reading.kind = "backed-off";
        return true;
      case "doubt":
        if (!reading || reading.count < 2) return false;
        reading.kind = "doubt";
        return true;
      case "check-drop":
        if (!reading) return false;
        reading.checks += 1;
        return true;
      case "next":
        if (!reading) return false;
        reading.closed = true;
        this.settle(reading);
        return true;
      case "again":
        if (this.state.spot !== "blank-failed") return false;
        this.open("blank");
        return true;
      case "reject":
        if (!current) return false;
        this.strike(data.cause || "rejected");
        return true;
      case "stop":
        if (this.state.spot === "finished") return false;
        if (current) current.rejected = "stopped";
        this.finish("not-tested", data.cause || "stopped");
        return true;
      case "note":
        return true;
      case "take-over":
        if (current) current.holder = event.device;
        return true;
      case "correct":
        return this.correct(data);
      default:
        return false;
    }
  }
}

// The state in one line, the same as kessa.bench.digest makes on the server.
export function digest(state) {
  const bit = (value) => (value ? 1 : 0);
  const parts = state.dets.map(
    (d) =>
      `${d.role}-${d.attempt}:${d.count}:${d.kind}:${bit(d.ended)}${bit(d.closed)}${bit(d.rejected)}:${d.checks}`,
  );
  return [`${state.spot}/${state.step}/${state.finish}`, ...parts].join("|");
}
