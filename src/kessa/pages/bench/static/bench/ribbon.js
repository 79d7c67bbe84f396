// The line: hands above, the standing sample below, the needle at now. Positions are shares of time.
import { nameOf } from "./tape.js";
import { trueNow } from "./true-time.js";

const ms = (iso) => Date.parse(iso);

function piece(className, text, left, width) {
  const element = document.createElement("span");
  element.className = className;
  element.textContent = text;
  if (left !== undefined) element.style.left = `${left}%`;
  if (width !== undefined) element.style.width = `${width}%`;
  return element;
}

const AHEAD = ["blank", "standard", "reference", "first", "second"];

// Blocks of the run: done ones with their own times, the present one, those to come as planned.
function blocks(runs, now) {
  const made = [];
  let at = null;
  for (const { sheet, state, events } of runs) {
    const times = events.map((event) => ms(event.at)).sort((a, b) => a - b);
    at = Math.max(at ?? 0, times[0] ?? now);
    sheet.stages.forEach((stage, index) => {
      const held = state.stages[index];
      const seconds = (role) => (stage.plan[role] ?? stage.plan.sample) * 1000;
      const titled = sheet.stages.length > 1 ? `${stage.title}: ` : "";
      for (const d of held.dets) {
        const open = !d.closed && !d.rejected;
        const ended = ms(d.at || d.times.at(-1) || new Date(at).toISOString());
        const end = open ? Math.max(now, at + seconds(d.role)) : Math.max(ended, at + 1000);
        made.push({
          name: titled + nameOf(sheet.words, d),
          from: at,
          to: end,
          kind: open ? "now" : d.rejected ? "struck" : "done",
        });
        at = end;
      }
      if (held.finish || state.finish) return;
      const had = new Set(held.dets.map((d) => d.role));
      const wanted = [
        ...stage.roles,
        ...(stage.rules.least === 1 ? ["first"] : ["first", "second"]),
      ];
      for (const role of AHEAD)
        if (wanted.includes(role) && !had.has(role)) {
          made.push({
            name: titled + sheet.words.roles[role],
            from: at,
            to: at + seconds(role),
            kind: "next",
          });
          at += seconds(role);
        }
    });
  }
  return made;
}

export function paintRibbon(element, runs, taken, now = trueNow()) {
  const made = blocks(runs, now);
  const begin = Math.max(taken, Math.min(made[0]?.from ?? now, now) - 10 * 60000);
  const finish = Math.max(now, made.at(-1)?.to ?? now) + 20000;
  const share = (time) => ((time - begin) / (finish - begin)) * 100;
  const parts = made.map((b) =>
    piece(
      `block ${b.kind}`,
      b.name,
      share(b.from),
      Math.max(share(b.to) - share(b.from) - 0.4, 0.6),
    ),
  );
  parts.push(piece("axis", "", 0, 100));
  parts.push(piece("standing", "", 0, share(now)));
  parts.push(piece("standing-name", element.dataset.standing, 0));
  const needle = piece("needle", "", share(now));
  const late = share(now) > 88;
  needle.append(piece(late ? "time left" : "time", new Date(now).toTimeString().slice(0, 5)));
  parts.push(needle);
  element.replaceChildren(...parts);
}
