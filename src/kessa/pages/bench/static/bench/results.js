// Paints what came out: a block for every stage that ended and every difference, then the waste.
import { $, made, show } from "./dom.js";
import { gauge, SIGNS } from "./gauge.js";
import { begun } from "./machine.js";
import { UNTESTED } from "./order.js";

function block(title, row, { later = "", cause = "", causes = [] }) {
  const item = $("outcome").content.firstElementChild.cloneNode(true);
  const find = (name) => item.querySelector(name);
  const text = (name, words) => {
    find(name).textContent = words ?? "";
  };
  show(find(".r-title"), Boolean(title));
  text(".r-title", title);
  show(find(".big-value"), Boolean(row?.f));
  if (row?.f) {
    text(".r-figure", row.f);
    text(".r-unit", row.u);
    text(".r-range", row.r);
    show(find(".r-range").parentElement, Boolean(row.r));
    if (row.g) find(".r-gauge").replaceChildren(gauge(row));
    const sign = find(".r-sign");
    sign.className = `r-sign sign ${row.s}`;
    sign.textContent = `${SIGNS[row.s]} ${row.w}${row.a ? ` · ${row.a}` : ""}`;
  }
  text(".r-working", row?.k || (row?.f ? "" : later) || cause);
  const told = (row?.t ?? []).map((sentence) => made("p", sentence, "told"));
  const flags = (row?.flags ?? []).map((flag) => made("p", `◐ ${flag}`, "told flagged"));
  find(".r-told").replaceChildren(...told, ...flags);
  find(".r-causes").replaceChildren(...causes.map((cause) => made("li", cause)));
  return item;
}

export function paintResult(run, spot) {
  const { sheet, state, rows } = run;
  const ended = state.spot === "finished";
  const shown = ended || spot === "stage-end" || spot === "beyond";
  show($("result"), shown);
  if (!shown) return;
  const several = sheet.stages.length > 1 || sheet.derived.length > 0;
  const blocks = [];
  sheet.stages.forEach((stage, at) => {
    const held = state.stages[at];
    if (!held.finish) return;
    if (several && UNTESTED.includes(held.finish)) {
      // The heading says it of a whole run; that no one continued after a stage needs no words.
      const cause = `${sheet.words.untested[held.finish]}: ${held.cause}`;
      if (state.finish === "done" && held.finish === "not-applicable")
        blocks.push(block(stage.title, null, { cause }));
      return;
    }
    const row = rows[stage.id];
    const later = ["done", "beyond"].includes(held.finish) ? sheet.words.later : "";
    const causes = held.finish === "not-repeatable" ? stage.words.notRepeatable.causes : [];
    const cause =
      several && held.finish === "not-repeatable" ? stage.words.notRepeatable.title : "";
    blocks.push(block(several ? stage.title : "", row, { later, cause, causes }));
  });
  for (const one of ended ? sheet.derived : []) {
    const row = rows[one.id];
    if (row) blocks.push(block(one.title, row, { later: row.cause ?? "" }));
    else if (state.stages.every((stage) => ["done", "beyond"].includes(stage.finish)))
      blocks.push(block(one.title, null, { later: sheet.words.later }));
  }
  $("outcomes").replaceChildren(...blocks);
  show($("r-waste"), ended && begun(state));
  $("r-waste").textContent = sheet.words.waste;
  const ids = Object.values(run.answer?.results ?? {})
    .map((row) => row.id)
    .filter(Boolean);
  show($("to-log"), ids.length > 0);
  show($("not-yet"), !ids.length);
  if (ids.length) $("to-log").href = $("main").dataset.result.replace("/0/", `/${ids[0]}/`);
}
