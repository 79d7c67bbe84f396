// Sound, vibration, notices and the count in the title: each can be switched off on this device.

const KINDS = ["sound", "vibration", "notice", "title", "practised"];
const OFF_AT_FIRST = ["practised"];
export const isOn = (kind) =>
  (localStorage.getItem(`kessa-${kind}`) ?? (OFF_AT_FIRST.includes(kind) ? "off" : "on")) === "on";

// A practised hand folds the guidance away and keys the readings.
export const practised = () => isOn("practised");
export const titleCounts = () => isOn("title");

// A browser lets a page sound only after a tap or a key, so the first one prepares it.
let audio = null;
export const soundReady = () => audio !== null;
function prepareSound() {
  audio ??= new AudioContext();
  if (audio.state === "suspended") audio.resume();
}
for (const first of ["pointerdown", "keydown"])
  addEventListener(first, prepareSound, { capture: true });

// One tone, so many seconds from now.
function tone(hertz, seconds, from = 0, into = audio.destination) {
  const at = audio.currentTime + from;
  const oscillator = audio.createOscillator();
  const gain = audio.createGain();
  oscillator.frequency.value = hertz;
  gain.gain.setValueAtTime(0.12, at);
  gain.gain.exponentialRampToValueAtTime(0.001, at + seconds);
  oscillator.connect(gain).connect(into);
  oscillator.start(at);
  oscillator.stop(at + seconds);
}

// what: "counted" (a drop was taken), "stop" (look up: the maximum, a failed blank, the end).
export function signal(what) {
  if (isOn("vibration")) navigator.vibrate?.(what === "counted" ? 12 : [60, 60, 60]);
  if (isOn("sound") && what === "stop" && audio) tone(660, 0.25);
}

const RINGS = 6;
const RING_EVERY_S = 10;
const BEAT_S = 0.35;
// What each clock of a visit sounds like, in hertz: told apart by ear, as their shapes are by eye.
const TUNES = [
  [880, 880, 880],
  [587, 880],
  [1047, 784, 1047],
  [523, 523],
  [659, 784, 988, 1175],
  [988, 494],
  [784, 784, 587],
  [440, 659, 440, 659],
];

// The alarm of a timer: it sounds so many seconds from now, once or for a minute. The browser's sound
// keeps its own time, also where a page in the background is slowed down. What it returns silences it;
// null where there is no sound. tune: which clock of the visit it is.
export function ringIn(seconds, once, tune = 0) {
  if (!isOn("sound") || !audio) return null;
  const out = audio.createGain();
  out.connect(audio.destination);
  for (let ring = 0; ring < (once ? 1 : RINGS); ring += 1)
    for (const [beat, hertz] of TUNES[tune % TUNES.length].entries())
      tone(hertz, 0.3, seconds + ring * RING_EVERY_S + beat * BEAT_S, out);
  const due = audio.currentTime + seconds;
  return {
    begun: () => audio.state === "running" && audio.currentTime >= due,
    silence: () => out.disconnect(),
  };
}

export function vibrateForTimer() {
  if (isOn("vibration")) navigator.vibrate?.([400, 200, 400, 200, 400]);
}

// The switches on the page; changed(kind) is told afterwards.
export function listenToSwitches(box, changed) {
  for (const kind of KINDS) {
    const input = box.querySelector(`[data-signal="${kind}"]`);
    input.checked = isOn(kind);
    input.addEventListener("change", () => {
      localStorage.setItem(`kessa-${kind}`, input.checked ? "on" : "off");
      changed(kind);
    });
  }
}
