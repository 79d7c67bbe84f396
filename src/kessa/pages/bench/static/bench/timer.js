// While a timer runs: the screen stays on where the device allows it, the end is sounded, and a notice
// comes where it was allowed and the page is not in front.
import { $, show } from "./dom.js";
import { isOn, ringIn, soundReady, vibrateForTimer } from "./signals.js";

let timer = null; // the timer that is followed: { key, over, brief, away, tune }
let ring = null;

// ---- the screen

const stays = () => Boolean(timer) && !timer.over && !timer.away;
let lock = null;
let asking = false;
let mayLock = "wakeLock" in navigator;
async function keepScreenOn() {
  if (lock || asking || !mayLock || document.visibilityState !== "visible") return;
  asking = true;
  try {
    lock = await navigator.wakeLock.request("screen");
    lock.addEventListener("release", () => (lock = null));
    if (!stays()) letScreenSleep();
  } catch {
    mayLock = false;
  }
  asking = false;
  sayWhatToExpect();
}

function letScreenSleep() {
  lock?.release();
  lock = null;
}

// ---- notices

const canNotify = () => "Notification" in window && "serviceWorker" in navigator;
const mayNotify = () => canNotify() && Notification.permission === "granted" && isOn("notice");

export async function askForNotices() {
  if (canNotify() && Notification.permission === "default") await Notification.requestPermission();
  sayWhatToExpect();
}

async function notify(title) {
  if (!mayNotify() || (document.visibilityState === "visible" && document.hasFocus())) return;
  const registration = await navigator.serviceWorker.ready;
  registration.showNotification(title, {
    body: $("clock-says").dataset.notice,
    tag: location.pathname,
    data: location.pathname,
    requireInteraction: true,
  });
}

async function closeNotice() {
  if (!canNotify() || Notification.permission !== "granted") return;
  const registration = await navigator.serviceWorker.ready;
  for (const one of await registration.getNotifications({ tag: location.pathname })) one.close();
}

// ---- following a timer

function sayWhatToExpect() {
  const { awake, asleep, notice, front, silent, tap, away } = $("clock-expect").dataset;
  const running = Boolean(timer) && !timer.over && !timer.brief;
  const here = [
    mayLock ? awake : asleep,
    mayNotify() ? notice : front,
    !isOn("sound") ? silent : soundReady() ? "" : tap,
  ];
  const said = timer?.away ? [away] : here;
  $("clock-expect").textContent = running ? said.filter(Boolean).join(" ") : "";
  show($("clock-expect"), running);
  show(
    $("allow-notice"),
    running && !timer?.away && canNotify() && Notification.permission === "default",
  );
}

function prepareRing(left) {
  ring = ringIn(left, timer.brief, timer.tune);
  if (ring) sayWhatToExpect();
}

function silence() {
  ring?.silence();
  ring = null;
}

// now: { key, left, over, title, brief, away, tune } of the timer at hand, or null; brief: one that somebody
// stands and watches; away: one that nobody stays for. Called at every tick.
export function followTimer(now) {
  if (now?.key !== timer?.key) {
    silence();
    if (timer?.over) closeNotice();
    timer = now && {
      key: now.key,
      over: now.over,
      brief: now.brief,
      away: now.away,
      tune: now.tune,
    };
    if (stays()) keepScreenOn();
    else letScreenSleep();
    sayWhatToExpect();
  }
  if (!now || timer.over) return;
  if (timer.away) return;
  if (!now.over) {
    if (!isOn("sound")) silence();
    else if (!ring) prepareRing(now.left);
    return;
  }
  timer.over = true;
  letScreenSleep();
  if (!ring?.begun()) {
    silence();
    ring = ringIn(0, timer.brief, timer.tune);
  }
  vibrateForTimer();
  if (!timer.brief) notify(now.title);
  sayWhatToExpect();
}

// A tap or a key answers the alarm.
for (const attended of ["pointerdown", "keydown"])
  addEventListener(attended, () => timer?.over && silence(), { capture: true });
document.addEventListener("visibilitychange", () => stays() && keepScreenOn());
$("allow-notice").addEventListener("click", askForNotices);
