// On the bench of one test: the clocks of the visit's other tests, and what to do now. Asked for again
// and again while there is a network; without one the clocks go on by what was known last.
import { countDown } from "./clocks.js";

const EVERY = 3000;
const box = document.getElementById("beside");

async function ask() {
  try {
    const answer = await fetch(box.dataset.address, { headers: { "X-Kessa-Poll": "yes" } });
    if (!answer.ok || answer.redirected) return;
    const fresh = new DOMParser().parseFromString(await answer.text(), "text/html");
    if (box.dataset.shown === fresh.body.innerHTML) return;
    box.dataset.shown = fresh.body.innerHTML;
    box.replaceChildren(...fresh.body.childNodes);
    countDown(box);
  } catch {
    // Without a network what is known stays.
  }
}

ask();
setInterval(ask, EVERY);
setInterval(() => countDown(box), 250);
