// On every page: the clocks that run on this device, each with its test, shape and sound. Works without
// a network. The bench of a test leaves out its own clock, which stands there large.
import { findAll } from "../ui/dom.js";
import { keptClocks } from "./kept-clocks.js";
import { countDown, drawn } from "./running-clocks.js";
import { ringIn, soundReady, vibrateForTimer } from "./signals.js";
import { trueNow } from "./true-time.js";

const rings = new Map(); // by run: { due, ring, rung }
let mayRing = !("locks" in navigator);

// Of several open pages one rings.
function askToRing() {
  if (mayRing || !soundReady()) return;
  navigator.locks.request("kessa-ring", { ifAvailable: true }, (lock) => {
    if (!lock) return undefined;
    mayRing = true;
    return new Promise(() => {});
  });
}

function followRing(clock) {
  const known = rings.get(clock.run);
  if (!known || known.due !== clock.due) {
    known?.ring?.silence();
    rings.set(clock.run, { due: clock.due, ring: null, rung: clock.due <= trueNow() });
    return;
  }
  const left = (clock.due - trueNow()) / 1000;
  if (!known.ring && !known.rung && mayRing)
    known.ring = ringIn(Math.max(left, 0), false, clock.tune);
  if (left > 0 || known.rung) return;
  known.rung = true;
  vibrateForTimer();
}

function silenceAll() {
  for (const known of rings.values()) if (known.rung) known.ring?.silence();
}

function paint(box, here) {
  const running = keptClocks().filter((clock) => clock.run !== here);
  for (const [run, known] of rings)
    if (!running.some((clock) => clock.run === run)) {
      known.ring?.silence();
      rings.delete(run);
    }
  for (const clock of running) if (!clock.look) followRing(clock);
  const said = running.map((clock) => clock.run + clock.due).join();
  if (box.dataset.said !== said) {
    box.dataset.said = said;
    box.replaceChildren(...running.map((clock) => drawn(clock, box.dataset)));
  }
  box.hidden = running.length === 0;
  for (const one of findAll("#beside-said [data-run]"))
    one.hidden = running.some((clock) => clock.run === one.dataset.run);
  countDown(box);
}

export function listen() {
  const box = document.getElementById("clocks");
  if (!box || document.querySelector("[data-own-clocks]")) return;
  const here = document.getElementById("main")?.dataset.run ?? "";
  const follow = () => {
    askToRing();
    paint(box, here);
  };
  for (const attended of ["pointerdown", "keydown"])
    addEventListener(attended, silenceAll, { capture: true });
  follow();
  setInterval(follow, 250);
}
