// Acts that wait on this device for somebody who is no longer signed in here: each visit's
// capability sends them, whoever opens a page. Nothing is ever sent under another sign-in.
import { Outbox, owners } from "./outbox.js";
import { asDevice, pictureAsDevice } from "./post.js";

export async function sendLeftBehind() {
  const own = ownerOfThisPage();
  let waiting = 0;
  try {
    for (const owner of await owners()) if (owner !== own) waiting += await sendOf(owner);
  } catch {
    return;
  }
  const line = document.getElementById("left-behind");
  line.hidden = waiting === 0;
  line.firstElementChild.textContent = waiting === 1 ? "1 action" : `${waiting} actions`;
}

// Of a page that sends for itself: a bench, or a page of a visit.
function ownerOfThisPage() {
  const pages = ["main", "away"].map((id) => document.getElementById(id)?.dataset);
  const own = pages.find((facts) => facts?.events);
  return own ? `${own.person}/${own.programme}` : "";
}

// Sends what it can; resolves with how many acts still wait.
async function sendOf(owner) {
  const outbox = new Outbox(owner);
  const rows = (await outbox.waiting()).sort((a, b) => a.event.lamport - b.event.lamport);
  for (const visit of new Set(rows.map((row) => row.visit))) {
    const held = visit && (await outbox.token(visit));
    if (!held) continue;
    const events = rows.filter((row) => row.visit === visit).map((row) => row.event);
    for (let at = 0; at < events.length; at += 100) {
      const { outcome, answer } = await asDevice(held.token, {
        events: events.slice(at, at + 100),
      });
      if (outcome !== "ok") break;
      await outbox.sent(answer.kept);
      await outbox.refuse(answer.refused);
    }
  }
  await sendPhotographsOf(outbox);
  return (await outbox.waiting()).length + (await outbox.photographs.waiting()).length;
}

async function sendPhotographsOf(outbox) {
  for (const row of await outbox.photographs.waiting()) {
    const held = row.visit && (await outbox.token(row.visit));
    if (!held) continue;
    const got = await pictureAsDevice(held.token, row);
    if (!(await outbox.photographs.settle(row, got))) break;
  }
}
