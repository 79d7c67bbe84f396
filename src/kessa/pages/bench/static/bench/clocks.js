// Waits: when a clock began, how long it has run, what is left; and until when a reading counts.
import { orderOf, secondsOf } from "./machine.js";
import { trueNow } from "./true-time.js";

const seconds = (from, now) => Math.max(0, (now - Date.parse(from)) / 1000);

// The wait at hand: seconds run, seconds it lasts, where it must be over, and its words.
export function waitOf(run, now = trueNow()) {
  const { sheet, state } = run;
  const wait = state.spot === "step" && sheet.steps[state.step].wait;
  if (!wait) return null;
  const began = state.moments[wait.starts] ?? state.last?.at;
  const ran = began ? seconds(began, now) : 0;
  const lasts = secondsOf(sheet, state, state.step) ?? 0;
  const asks = wait.rule === "typed" && !lasts;
  return {
    asks,
    due: now + (lasts - ran) * 1000,
    wait,
    ran,
    lasts,
    left: lasts - ran,
    over: !wait.early && !asks && ran >= lasts,
    late: wait.to !== undefined && ran > wait.to,
  };
}

// Seconds left in which the reading at hand still counts; null where nothing hurries.
export function readWithin(run, now = trueNow()) {
  const { sheet, state } = run;
  if (state.spot !== "step" || sheet.steps[state.step].kind !== "read") return null;
  const order = orderOf(run);
  const here = order.indexOf(state.step);
  const at = order.findLastIndex((id, index) => index < here && sheet.steps[id].wait);
  const before = order[at];
  if (!before) return null;
  const { wait } = sheet.steps[before];
  const began = state.moments[wait.starts ?? order[at - 1]];
  const limit = wait.to ?? sheet.steps[state.step].within_s;
  return began && limit ? Math.round(limit - seconds(began, now)) : null;
}

// How long an endpoint has to hold: seconds it lasts and seconds left; null where it need not.
export function holdOf(run, now = trueNow()) {
  const { sheet, state } = run;
  const d = state.stages[state.at].dets.at(-1);
  if (state.spot !== "reading" || !d) return null;
  const lasts = sheet.steps[orderOf(run).at(-1)].hold_s ?? 0;
  const left = lasts - seconds(d.at, now);
  return { lasts, left, over: left <= 0 };
}

// Seconds an endpoint still has to hold; null where it need not, or has.
export function holdLeft(run, now = trueNow()) {
  const hold = holdOf(run, now);
  return hold && !hold.over ? Math.ceil(hold.left) : null;
}

// When a wait of hours or days is over, and until when it counts.
export function dueText(due, { due: words }) {
  const when = new Date(due);
  const today = when.toDateString() === new Date().toDateString();
  const day = today ? "" : `${when.toLocaleDateString("en-GB", { weekday: "long" })} `;
  const time = when.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  return `${words} ${day}${time}`;
}
