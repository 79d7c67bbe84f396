// The tape: every determination as it closed, struck through where it was rejected, then results.
import { awaits } from "./determination.js";
import { $ } from "./dom.js";
import { gauge, SIGNS } from "./gauge.js";
import { halves, isSample } from "./machine.js";
import { said, single } from "./rows.js";

const clock = (iso) => (iso ? iso.slice(11, 16) : "");

function slip({
  what,
  when = "",
  figure,
  unit = "",
  row = null,
  note = "",
  out = false,
  final = false,
}) {
  const item = $("slip").content.firstElementChild.cloneNode(true);
  const put = (name, text) => {
    item.querySelector(name).textContent = text;
  };
  put(".what", what);
  put(".when", when);
  put(".fig-text", figure);
  put(".unit", unit);
  put(".note", note);
  item.classList.toggle("out", out);
  item.classList.toggle("final", final);
  if (row) {
    if (row.g) item.querySelector(".g").append(gauge(row));
    const sign = item.querySelector(".told-sign");
    sign.className = `sign ${row.s}`;
    sign.textContent = `${SIGNS[row.s]} ${row.w}`;
  }
  return item;
}

export function nameOf(words, d) {
  return words.roles[d.role] + words.tries[Math.min(d.attempt, words.tries.length) - 1];
}

// The unit of what was seen: drops; the scale's own.
export function unitOf(stage, d) {
  if (!stage.counts) {
    const scale = Object.values(stage.slots).at(-1);
    return scale.ranges ? "" : scale.unit;
  }
  return d.count === 1 ? stage.words.one : stage.words.many;
}

function beside(stage, d, base, unit, corrected, later) {
  const words = stage.words;
  const [, note] = (d.role === "standard" && stage.standard?.[halves(stage, d)]) || [];
  const notes = { blank: words.passedNote, standard: note ?? later, reference: words.reference };
  return slip({ ...base, figure: said(stage, d), unit, note: corrected || notes[d.role] || "" });
}

// *later*: what stands where the sheet cannot tell; nothing once the stage's result has come.
function determination(sheet, state, d, later) {
  const stage = sheet.stages[d.stage];
  const unit = unitOf(stage, d);
  const base = { what: nameOf(sheet.words, d), when: clock(d.at || d.times.at(-1)) };
  const seen = d.ended || d.closed ? said(stage, d) : stage.counts ? String(d.count) : "–";
  if (awaits(d)) return slip({ ...base, figure: "", note: sheet.words.awaiting.title });
  if (d.rejected)
    return slip({
      ...base,
      figure: stage.counts ? String(d.count) : seen,
      unit,
      note: d.rejected,
      out: true,
    });
  const corrected = d.was
    .map((was) => `${sheet.words.was} ${said(stage, { ...d, ...was })}: ${was.why}`)
    .join("; ");
  if (!isSample(d.role)) return beside(stage, d, base, unit, corrected, later);
  const row = single(sheet, state, d);
  if (d.diluted > 1) base.what += `, ${sheet.words.diluted.replace("{by}", d.diluted)}`;
  if (!row) return slip({ ...base, figure: seen, unit, note: corrected || later });
  const none = {
    beyond: stage.words.noChange ?? stage.words.over,
    absent: stage.words.none,
    below: stage.words.under,
  };
  base.what += `, ${none[d.kind] ?? `${seen} ${unit}`.trim()}`;
  return slip({
    ...base,
    figure: row.f,
    unit: `${row.u}\n${row.r}`,
    row,
    note: corrected || row.a,
  });
}

export function paintTape(list, runs) {
  const items = [];
  for (const { sheet, state, rows } of runs) {
    const several = sheet.stages.length > 1;
    sheet.stages.forEach((stage, at) => {
      const held = state.stages[at];
      const row = rows[stage.id];
      const later = row?.f ? "" : sheet.words.later;
      for (const d of held.dets)
        if (d.closed || d.rejected) items.push(determination(sheet, state, d, later));
      if (row?.f && held.finish === "done")
        items.push(result(several ? stage.title : stage.parameter, row));
    });
    for (const one of sheet.derived)
      if (rows[one.id]?.f) items.push(result(one.title, rows[one.id]));
  }
  list.replaceChildren(...items);
  return items.length;
}

function result(what, row) {
  return slip({ what, figure: row.f, unit: `${row.u}\n${row.r}`, row, note: row.a, final: true });
}
