// The clocks that run on this device, of every test: kept so that each page counts them and rings.
import { trueNow } from "./true-time.js";

const KEY = "kessa-clocks";
const FORGOTTEN_MS = 24 * 3600 * 1000; // a clock that nobody answers for a day is dropped

// Each: { run, short, title, due, until, look, address, shape, tune }; due, until: ms since 1970 by the
// server's clock.
export function keptClocks() {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "[]");
    return kept.filter((clock) => clock.due > trueNow() - FORGOTTEN_MS);
  } catch {
    return [];
  }
}

// The clock of a test, or that none of it runs any more.
export function keepClock(run, clock) {
  const known = keptClocks();
  const before = known.find((one) => one.run === run);
  if (!clock && !before) return;
  if (clock && before && JSON.stringify(before) === JSON.stringify(clock)) return;
  const others = known.filter((one) => one.run !== run);
  localStorage.setItem(KEY, JSON.stringify(clock ? [...others, clock] : others));
}

export const forgetClocks = () => localStorage.removeItem(KEY);
