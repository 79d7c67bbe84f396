// The time by the server's clock, as far as this device knows it. Where the device's own clock is a
// minute or more off, what is shown and counted goes by the server's; where it jumps while a page is
// open, the page notices: its own clock never jumps.

const KEY = "kessa-clock-off";
const CLOCK_OFF_MS = 60_000; // below, an offset is as much the network's
const JUMP_MS = 1500;
const LONGEST_TRIP_MS = 10_000; // an answer that took longer says too little: the device may have slept
const PATIENCE_MS = 4000; // so long nothing that may be a jump counts, while the server is asked

let off = Number(localStorage.getItem(KEY)) || 0; // server minus device, as it was heard last
let heard = false; // whether this page has heard the server's time
let wall = Date.now();
let own = performance.now();
let doubted = 0; // ms by which the wall clock went on further than this page's, and nobody knows why
const told = [];

const large = () => (Math.abs(off) < CLOCK_OFF_MS ? 0 : off);

export function trueNow() {
  watch();
  return Date.now() + large() - doubted;
}

// Server minus device, for an act: nothing where this page has not heard.
export const knownOffset = () => (heard ? off : null);

export function learn(serverMinusDevice) {
  off = serverMinusDevice;
  heard = true;
  localStorage.setItem(KEY, String(off));
}

// left: when the question left, by the page's own clock, which does not jump on the way.
export function hear(now, left) {
  const trip = performance.now() - left;
  if (trip <= LONGEST_TRIP_MS) learn(Math.round(Date.parse(now) - Date.now() + trip / 2));
}

// ask(): asks the server where time did not go on evenly; resolves when it is answered or cannot be.
export const whenItJumps = (ask) => told.push(ask);

// Back: the clock was set. On: it was set, or the device slept, which only the server can tell.
function watch() {
  const jump = Date.now() - wall - (performance.now() - own);
  wall = Date.now();
  own = performance.now();
  if (Math.abs(jump) < JUMP_MS) return;
  if (jump < 0) {
    off -= jump;
    localStorage.setItem(KEY, String(off));
  } else doubted += jump;
  const late = new Promise((resolve) => setTimeout(resolve, PATIENCE_MS));
  const asked = told.length ? Promise.allSettled(told.map((ask) => ask())) : undefined;
  Promise.race([asked, late]).then(() => {
    doubted = 0;
  });
}
setInterval(watch, 500);
