// Acts that wait on this device for somebody who is no longer signed in here: each visit's
// capability sends them, whoever opens a page. Nothing is ever sent under another sign-in.
import { Outbox, owners } from "./outbox.js";
import { asDevice } from "./post.js";

export async function sendLeftBehind() {
  const own = document.getElementById("main")?.dataset.events ? ownerOfThisBench() : "";
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

const ownerOfThisBench = () => {
  const { person, programme } = document.getElementById("main").dataset;
  return `${person}/${programme}`;
};

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
  return (await outbox.waiting()).length;
}
