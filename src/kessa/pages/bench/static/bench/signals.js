// Sound, vibration and the count in the title: each can be switched off on this device.

const KINDS = ["sound", "vibration", "title", "practised"];
const OFF_AT_FIRST = ["practised"];
const isOn = (kind) =>
  (localStorage.getItem(`kessa-${kind}`) ?? (OFF_AT_FIRST.includes(kind) ? "off" : "on")) === "on";

// A practised hand folds the guidance away and keys the readings.
export const practised = () => isOn("practised");
export const titleCounts = () => isOn("title");

let audio = null;
function tone(hertz, seconds) {
  audio ??= new AudioContext();
  const oscillator = audio.createOscillator();
  const gain = audio.createGain();
  oscillator.frequency.value = hertz;
  gain.gain.setValueAtTime(0.12, audio.currentTime);
  gain.gain.exponentialRampToValueAtTime(0.001, audio.currentTime + seconds);
  oscillator.connect(gain).connect(audio.destination);
  oscillator.start();
  oscillator.stop(audio.currentTime + seconds);
}

// what: "counted" (a drop was taken), "stop" (look up: the maximum, a failed blank, the end).
export function signal(what) {
  if (isOn("vibration")) navigator.vibrate?.(what === "counted" ? 12 : [60, 60, 60]);
  if (isOn("sound") && what === "stop") tone(660, 0.25);
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
