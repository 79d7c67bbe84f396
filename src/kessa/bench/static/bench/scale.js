// What was typed or set on a scale, as whole steps of it: the same as kessa_core.readings.scale.

const TYPED = /^(-?)(\d{1,7})(?:[.,](\d{1,6}))?$/;

// {n, kind} of a raw reading; {error, suspected} where the scale cannot show it.
export function parse(scale, raw) {
  const text = raw.trim();
  if (text.startsWith(">") && scale.over) {
    const rest = text.slice(1).trim();
    const inner = rest ? parse(scale, rest) : { n: scale.high };
    return inner.error ? inner : { n: inner.n, kind: "beyond" };
  }
  if (text === "<" && scale.under) return { n: scale.low, kind: "below" };
  if (scale.labels) {
    const ok = /^-?\d{1,4}$/.test(text) && Number(text) >= scale.low && Number(text) <= scale.high;
    return ok ? { n: Number(text), kind: "plain" } : { error: "place" };
  }
  const [figure, unit = ""] = text.split("|");
  const found = TYPED.exec(figure.trim().replace("−", "-"));
  if (!found) return { error: "number" };
  if (scale.ranges) return inRange(scale, found, unit || scale.ranges[0].unit);
  const digits = digitsOf(found, scale.decimals, false);
  if (digits === null || digits % scale.every) return { error: "step" };
  const n = digits / scale.every;
  return n >= scale.low && n <= scale.high ? { n, kind: "plain" } : { error: "range" };
}

function inRange(scale, found, unit) {
  const named = scale.ranges.find((range) => range.unit === unit);
  if (!named) return { error: "unit" };
  const fits = (range, exact) => {
    const digits = digitsOf(found, range.decimals, exact);
    return digits !== null && digits >= range.low && digits <= range.high ? digits : null;
  };
  const digits = fits(named, true);
  if (digits !== null) return { n: Number(`${digits}${"0".repeat(named.zeros)}`), kind: "plain" };
  const other = scale.ranges.find((range) => range !== named && fits(range, false) !== null);
  if (!other) return { error: "display" };
  const figure = say({ decimals: other.decimals, every: 1 }, fits(other, false));
  return { error: "display", suspected: { raw: `${figure}|${other.unit}`, said: `${figure} ${other.unit}` } };
}

function digitsOf([, sign, whole, part = ""], decimals, exact) {
  if (part.length > decimals && (exact || part.slice(decimals).replace(/0/g, ""))) return null;
  if (exact && part.length < decimals) return null;
  const digits = Number(whole + part.slice(0, decimals).padEnd(decimals, "0"));
  return sign ? -digits : digits;
}

// A place on the scale as people say it.
export function say(scale, n) {
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
  if (n > scale.high) return ">";
  if (n < scale.low) return "<";
  if (scale.labels) return String(n);
  const { figure, unit } = shown(scale, n);
  return scale.ranges ? `${figure}|${unit}` : figure;
}
