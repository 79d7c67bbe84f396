// Paints a count: the number, what it would come to, the word about its last one; moves the figure.
import { $, findAll, show, text } from "./dom.js";
import { figureOf } from "./reading.js";
import { said } from "./rows.js";

export function paintCount(spot, d, stage) {
  const shown = Boolean(
    d && stage.counts && (spot === "count" || spot === "reading" || (spot === "held" && d.count)),
  );
  show($("count"), shown);
  if (!shown) return;
  const words = stage.words;
  text("n", spot === "reading" ? said(stage, d) : d.count);
  text("unit", d.count === 1 ? words.one : words.many);
  text("so", d.role === "blank" ? "" : stage.running[d.count]);
  text("per", d.role === "blank" ? words.blankPer : words.perDrop);
  const full = d.count >= stage.rules.max;
  const [add, , end, beyond] = findAll('[data-spot="count"] > button');
  show(add, !full);
  show(beyond, full);
  add.firstChild.textContent = `${words.add} `;
  end.firstChild.textContent = `${d.count || stage.rules.from ? words.end : words.endAtOnce} `;
  beyond.firstChild.textContent = `${words.noChangeStop} `;
  end.disabled = d.count < stage.rules.from;
  const next = $("next-label");
  const label = {
    plain: next.dataset.drop,
    "backed-off": next.dataset.backedOff,
    doubt: next.dataset.doubt,
  }[d.kind];
  next.textContent = (label ?? "")
    .replace("{n}", d.count)
    .replace("{m}", d.count - 1)
    .replace(
      "{unit}",
      (d.kind === "backed-off" ? d.count - 1 : d.count) === 1 ? words.one : words.many,
    );
  text("doubt-label", `${d.count - 1} / ${d.count}`);
  const [, tooStrong, doubt] = findAll('[data-spot="reading"] > button');
  tooStrong.disabled = !d.count || (d.role === "blank" && d.count < 2);
  doubt.disabled = d.count < stage.rules.from + 1;
  tooStrong.setAttribute("aria-pressed", String(d.kind === "backed-off"));
  doubt.setAttribute("aria-pressed", String(d.kind === "doubt"));
  show($("checked"), d.checks > 0);
  text("checked", `${words.checkDrop}: ${d.checks}`);
  for (const tablet of findAll("[data-tablet]"))
    tablet.classList.toggle("in", Number(tablet.dataset.tablet) <= d.count);
}

let lastCount = 0;
export function swirl({ sheet, state }, d) {
  const count = d ? d.count : 0;
  if (count > lastCount) {
    const flask = figureOf(sheet.method.id, sheet.stages[state.at].id, "")?.querySelector(".flask");
    flask?.classList.remove("falling");
    flask?.getBoundingClientRect();
    flask?.classList.add("falling");
  }
  lastCount = count;
}
