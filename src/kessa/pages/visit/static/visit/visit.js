// The page of a visit: its clocks count down between two answers of the server, by the server's clock.
import { countDown } from "../bench/running-clocks.js";
import { learn } from "../bench/true-time.js";
import { find } from "../ui/dom.js";

const count = () => countDown();

count();
setInterval(count, 250);
document.addEventListener("htmx:afterSwap", () => {
  learn(Date.parse(find("#board").dataset.now) - Date.now());
  count();
});
