// The tape: every determination as it closed, struck through where it was rejected, then the result.
import { SIGNS, gauge } from "./gauge.js";
import { said, single } from "./rows.js";

const clock = (iso) => (iso ? iso.slice(11, 16) : "");

function slip({ what, when = "", figure, unit = "", row = null, note = "", out = false, final = false }) {
  const item = document.getElementById("slip").content.firstElementChild.cloneNode(true);
  const put = (name, text) => (item.querySelector(name).textContent = text);
  put(".what", what);
  put(".when", when);
  put(".fig-text", figure);
  put(".unit", unit);
  put(".note", note);
  item.classList.toggle("out", out);
  item.classList.toggle("final", final);
  if (row) {
    item.querySelector(".g").append(gauge(row));
    const sign = item.querySelector(".told-sign");
    sign.className = `sign ${row.s}`;
    sign.textContent = `${SIGNS[row.s]} ${row.w}`;
  }
  return item;
}

export function nameOf(words, d) {
  return words.roles[d.role] + words.tries[Math.min(d.attempt, words.tries.length) - 1];
}

function determination(sheet, state, d) {
  const words = sheet.words;
  const drops = d.count === 1 ? words.drop : words.drops;
  const base = { what: nameOf(words, d), when: clock(d.at || d.times.at(-1)) };
  if (d.rejected) return slip({ ...base, figure: String(d.count), unit: drops, note: d.rejected, out: true });
  const corrected = d.was.map((was) => `${words.was} ${said(was)}: ${was.why}`).join("; ");
  if (d.role === "blank") return slip({ ...base, figure: said(d), unit: drops, note: corrected || words.passedNote });
  const row = single(sheet, state, d);
  base.what += d.kind === "beyond" ? `, ${words.noChange}` : `, ${said(d)} ${drops}`;
  if (!row) return slip({ ...base, figure: said(d), unit: drops, note: words.later });
  return slip({ ...base, figure: row.f, unit: `${row.u}\n${row.r}`, row, note: corrected || row.a });
}

export function paintTape(list, runs) {
  const items = [];
  for (const { sheet, state, row } of runs) {
    for (const d of state.dets) if (d.closed || d.rejected) items.push(determination(sheet, state, d));
    if (row && state.finish === "done")
      items.push(slip({ what: sheet.method.parameter, figure: row.f, unit: `${row.u}\n${row.r}`, row, note: row.a, final: true }));
  }
  list.replaceChildren(...items);
  return items.length;
}
