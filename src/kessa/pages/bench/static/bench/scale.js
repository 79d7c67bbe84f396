// What was typed or set on a scale, as whole steps of it: the same as kessa_core.readings.scale.

const TYPED = /^(-?)(\d{1,7})(?:[.,](\d{1,6}))?$/;

// {n, kind} of a raw reading; {error, keep, suspected} where the scale cannot show it. keep: it lies
// on the scale and is kept as read once it is confirmed (sure).
export function parse(scale, raw, sure = false) {
  const text = raw.trim();
  if (text.startsWith(">") && scale.over) return beyond(scale, text.slice(1).trim(), sure);
  if (text === "<" && scale.under) return { n: scale.underAt ?? scale.low, kind: "below" };
  if (scale.labels) {
    const ok = /^-?\d{1,4}$/.test(text) && Number(text) >= scale.low && Number(text) <= scale.high;
    return ok ? { n: Number(text), kind: "plain" } : { error: "place" };
  }
  const [figure, unit = ""] = text.split("|");
  const found = TYPED.exec(figure.trim().replace("−", "-"));
  if (!found) return { error: "number" };
  if (scale.ranges) return inRange(scale, found, unit || scale.ranges[0].unit, sure);
  const n = stepsOf(found, scale.decimals, scale.every);
  if (n < scale.low || n > scale.high) return { error: "range" };
  return Number.isInteger(n) || sure ? { n, kind: "plain" } : { error: "step", keep: true };
}

function beyond(scale, rest, sure) {
  if (!rest)
    return scale.overAsks ? { error: "over" } : { n: scale.overAt ?? scale.high, kind: "beyond" };
  const inner = parse(scale, rest, sure);
  return inner.error ? inner : { n: inner.n, kind: "beyond" };
}

function inRange(scale, found, unit, sure) {
  const named = scale.ranges.find((range) => range.unit === unit);
  if (!named) return { error: "unit" };
  const steps = stepsOf(found, named.decimals);
  const exact = (found[3] ?? "").length === named.decimals;
  const n = steps * 10 ** named.zeros;
  if (exact && steps >= named.low && steps <= named.high) return { n, kind: "plain" };
  const keep = n >= scale.low && n <= scale.high;
  if (keep && sure) return { n, kind: "plain" };
  const fits = (range) => {
    const m = stepsOf(found, range.decimals);
    return range !== named && Number.isInteger(m) && m >= range.low && m <= range.high;
  };
  const other = scale.ranges.find(fits);
  if (!other) return { error: "display", keep };
  const figure = say({ decimals: other.decimals, every: 1 }, stepsOf(found, other.decimals));
  return {
    error: "display",
    keep,
    suspected: { raw: `${figure}|${other.unit}`, said: `${figure} ${other.unit}` },
  };
}

/** @param {string[]} found the match of TYPED: all of it, sign, whole part, decimals */
function stepsOf([, sign, whole, part = ""], decimals, every = 1) {
  const fine = Math.max(part.length, decimals);
  const steps = Number(whole + part.padEnd(fine, "0")) / (every * 10 ** (fine - decimals));
  return sign ? -steps : steps;
}

// A place on the scale as people say it; one between two steps with two decimals more.
export function say(scale, n) {
  if (!Number.isInteger(n))
    return String(Number(((n * scale.every) / 10 ** scale.decimals).toFixed(scale.decimals + 2)));
  if (scale.labels) return scale.labels[n - scale.low];
  const digits = String(Math.abs(n) * scale.every).padStart(scale.decimals + 1, "0");
  const sign = n < 0 ? "-" : "";
  if (!scale.decimals) return sign + digits;
  return `${sign}${digits.slice(0, -scale.decimals)}.${digits.slice(-scale.decimals)}`;
}

// What a display shows at a place: figure and unit, in the finest range that can show it.
export function shown(scale, n) {
  if (!scale.ranges) return { figure: say(scale, n), unit: scale.unit };
  const fits = (range) => n / 10 ** range.zeros >= range.low && n / 10 ** range.zeros <= range.high;
  const range = scale.ranges.find(fits) ?? scale.ranges.at(-1);
  const digits = Math.trunc(n / 10 ** range.zeros);
  return { figure: say({ decimals: range.decimals, every: 1 }, digits), unit: range.unit };
}

// The place as acts carry it; beyond an end where the scale knows one.
export function rawOf(scale, n) {
  const falls = scale.overAt === scale.low;
  if (n > scale.high) return falls && scale.under ? "<" : ">";
  if (n < scale.low) return falls ? ">" : "<";
  if (scale.labels) return String(n);
  const { figure, unit } = shown(scale, n);
  return scale.ranges ? `${figure}|${unit}` : figure;
}
