// The page of a visit: its clocks count down between two answers of the server.
import { countDown } from "../bench/running-clocks.js";

countDown();
setInterval(() => countDown(), 250);
document.addEventListener("htmx:afterSwap", () => countDown());
