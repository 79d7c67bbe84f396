// On the bench of one test: the clocks of the visit's other tests, and what to do now. Asked for again
// and again while there is a network; without one the clocks go on by what was known last.
import { countDown } from "../bench/running-clocks.js";

const EVERY = 3000;
const box = document.getElementById("beside-said");
const { address } = document.getElementById("beside").dataset;

async function ask() {
  try {
    const known = /** @type {HTMLElement} */ (box.querySelector("[data-code]"))?.dataset.code;
    const answer = await fetch(`${address}?seen=${known ?? ""}`, {
      headers: { "X-Kessa-Poll": "yes" },
    });
    if (answer.status !== 200 || answer.redirected) return;
    const fresh = new DOMParser().parseFromString(await answer.text(), "text/html");
    box.replaceChildren(...fresh.body.childNodes);
    countDown(box);
  } catch {
    // Without a network what is known stays.
  }
}

ask();
setInterval(ask, EVERY);
setInterval(() => countDown(box), 250);
