// What the page has to tell besides the run: where page and server differ, what was refused, and
// what does not count because another device had taken over.
import { $, show } from "./dom.js";
import { digest } from "./machine.js";
import { final } from "./rows.js";

// settled: nothing is under way, so that page and server speak of the same acts.
export function tellDifferences(runs, settled) {
  show(
    $("mismatch"),
    settled && runs.some((run) => run.answer && run.answer.digest !== digest(run.state)),
  );
  show($("shown"), settled && runs.some(showsOtherwise));
}

// What this page's sheet says and what the server computed are not the same.
function showsOtherwise({ sheet, state, answer }) {
  if (answer?.digest !== digest(state)) return false;
  return sheet.stages.some(({ id }, at) => {
    const row = final(sheet, state, at);
    const said = answer.results[id];
    const keys = row?.r ? ["f", "r", "s"] : ["f", "s"];
    return Boolean(row?.f && said?.f) && keys.some((key) => row[key] !== said[key]);
  });
}

export async function tellRefused(outbox) {
  const refused = await outbox.refused();
  show($("refused"), refused.length > 0);
  if (refused.length)
    $("refused").firstElementChild.textContent =
      `${refused.length} ${$("refused").dataset.text}${refused[0].refused}`;
}

// Actions recorded after another device took over are stored but ignored.
export function tellCountedOut(runs, device) {
  const ignored = new Set(runs.flatMap((run) => run.state.ignored));
  const out = runs
    .flatMap((run) => run.events)
    .filter((event) => event.device === device && ignored.has(event.id));
  show($("counted-out"), out.length > 0);
  $("counted-out").firstElementChild.textContent = out.length;
}

// The browser would not save an act; it stays said. outcome: "trying" | "straight" | "lost".
export function tellNotKept(outcome) {
  const notice = $("not-kept");
  if (outcome === "trying" && notice.dataset.outcome) return;
  if (notice.dataset.outcome === "lost" && outcome === "straight") return;
  notice.dataset.outcome = outcome;
  notice.textContent = notice.dataset[outcome];
  show(notice, true);
}

// Where acts wait until they are sent, whether the browser has promised not to clear them, and whether
// the page itself opens without a connection (stored: a promise of that).
export async function tellWhereKept(stored) {
  const durable = (await navigator.storage?.persist?.().catch(() => false)) ?? false;
  const where = $("kept-where");
  const said = [where.dataset[durable ? "durable" : "loose"]];
  where.textContent = said[0];
  said.unshift(where.dataset[(await stored) ? "stored" : "unstored"]);
  where.textContent = said.join(" ");
}
