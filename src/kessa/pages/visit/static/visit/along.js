// A visit on this device: its pages are kept so that it can be done without a network, and what was done
// here and is not on the server yet shows on its page.
import { keptClocks } from "../bench/kept-clocks.js";
import { store } from "../bench/stored.js";
import { trueNow } from "../bench/true-time.js";
import { find, findAll } from "../ui/dom.js";
import { noteVisit, visitsHere } from "./on-this-device.js";
import { listenToPhotographs, sayWaiting } from "./seen.js";
import { Device, standing } from "./visit-acts.js";

const facts = find("#away");
const words = find("#along").dataset;
const device = new Device(facts, { told: tell });

async function takeAlong() {
  const box = find("#along");
  const urls = findAll("[data-keep]").map((link) => link.href);
  const before = visitsHere().find(({ address }) => address === location.pathname);
  if (before) say(box, "kept", inWords(before));
  if (!urls.length || !navigator.onLine) return;
  if (!before) say(box, "keeping");
  await device.askForPermission();
  const list = new URL(facts.dataset.list, location.href).href;
  const here = location.href.split(/[?#]/)[0];
  const failed = { outcome: "failed", bytes: 0, pages: 0 };
  const stored = store(facts.dataset.scope, [here, list, ...urls]).catch(() => failed);
  const { outcome, bytes, pages } = await stored;
  const kept = { bytes, pages, at: Date.now() };
  if (outcome === "kept") noteVisit(facts.dataset, kept);
  if (outcome === "kept" || !before) say(box, outcome, inWords(kept));
  document.body.dataset.along = outcome;
}

const inWords = ({ bytes, pages }) => ({ size: (bytes / 1e6).toFixed(1), pages });

function say(box, outcome, numbers = {}) {
  let said = box.dataset[outcome] ?? "";
  for (const [name, value] of Object.entries(numbers)) said = said.replace(`{${name}}`, value);
  find("#along-said").textContent = said;
  box.hidden = !said;
}

// How many acts wait here to be sent.
function tell(status, waiting) {
  const line = find("#waiting");
  line.hidden = !waiting;
  find("span", line).textContent = waiting === 1 ? "1 action" : `${waiting} actions`;
  sayWaiting(device);
}

// What a test came to on this device, as its page noted it.
function testHere(run) {
  try {
    return JSON.parse(localStorage.getItem(`kessa-test-${run}`) ?? "null");
  } catch {
    return null;
  }
}

// What the page carries already is not needed here any more.
async function forgetCarried() {
  const carried = find("#board").dataset.carried.split(" ").filter(Boolean);
  if (carried.length) await device.outbox.forget(carried);
}

async function paint() {
  await forgetCarried();
  const acts = await device.acts().catch(() => []);
  if (!acts.length) return;
  for (const section of findAll("[data-sample]"))
    paintSample(section, standing(acts, section.dataset.sample));
  paintNow();
  if (acts.some(({ act }) => act === "ended")) find("#ended-here").hidden = false;
}

function stateOf(known) {
  if (!known) return words.notBegun;
  return known.finish ? known.said || words.ended : words.begun;
}

function paintSample(section, { outcome, reason, at, next }) {
  if (section.dataset.outcome !== "open") return;
  const still = find("[data-still]", section);
  const link = find("[data-next]", section);
  if (link) link.href = link.dataset.next.replace("/safety/", `/${next}/`);
  if (!outcome) return;
  still.textContent =
    outcome === "taken"
      ? words.taken.replace("{at}", at)
      : words.notTaken.replace("{reason}", reason);
  section.dataset.here = outcome;
  const go = find("[data-go]", section);
  if (go) go.hidden = true;
  const tests = find("[data-tests-here]", section);
  if (outcome !== "taken" || !tests) return;
  tests.hidden = false;
  for (const row of findAll("[data-run]", tests)) {
    const known = testHere(row.dataset.run);
    find("[data-state]", row).textContent = stateOf(known);
    row.dataset.done = known?.finish ? "yes" : "no";
  }
}

// Without the server: the next test by the plan that was made before leaving, then the next point.
function paintNow() {
  const waiting = new Map(keptClocks().map((clock) => [clock.run, clock]));
  const left = findAll("[data-here=taken] [data-run][data-done=no]");
  const free = left.find((row) => !(waiting.get(row.dataset.run)?.due > trueNow()));
  const place = findAll("[data-sample][data-outcome=open]").find((one) => !one.dataset.here);
  const target = find("a", free ?? left[0] ?? place ?? document.createElement("p"));
  const here = free ?? left[0];
  find("#now-server").hidden = true;
  const box = find("#now-here");
  box.hidden = false;
  find("[data-title]", box).textContent = here
    ? target.textContent
    : place
      ? find("h2", place).textContent
      : box.dataset.done;
  const go = find("a", box);
  go.hidden = !target;
  if (target) go.href = target.href;
  if (target) go.textContent = here ? box.dataset.test : box.dataset.place;
}

takeAlong();
listenToPhotographs(device);
paint();
document.addEventListener("htmx:afterSwap", paint);
device.sender.send();
