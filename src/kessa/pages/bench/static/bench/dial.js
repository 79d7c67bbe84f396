// Drives any drawn scale: by pointer, by keys, by steps. The drawing says where its ends are
// (data-from, data-to, or data-stops for each place) and what moves (data-mover, data-fill,
// data-figure, data-at); see docs/INSTRUMENTS.md.
import { say, shown } from "./scale.js";

const KEYS = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 };

export class Dial {
  n = null;

  constructor(figure, scale, words, changed) {
    this.scale = scale;
    this.words = words;
    this.changed = changed;
    this.svg = figure.querySelector("[data-dial]");
    const { axis = "x", from = "0", to = "100", stops } = this.svg.dataset;
    this.axis = axis;
    this.from = Number(from);
    this.to = Number(to);
    this.stops = stops ? stops.trim().split(/\s+/).map(Number) : null;
    this.lowest = scale.low - (scale.under ? 1 : 0);
    this.highest = scale.high + (scale.over ? 1 : 0);
    const ends = { valuemin: this.lowest, valuemax: this.highest };
    for (const [name, value] of Object.entries(ends)) this.svg.setAttribute(`aria-${name}`, value);
    this.svg.addEventListener("pointerdown", (event) => this.press(event));
    this.svg.addEventListener(
      "pointermove",
      (event) => this.svg.hasPointerCapture(event.pointerId) && this.point(event),
    );
    this.svg.addEventListener("keydown", (event) => this.key(event));
    this.paint();
  }

  press(event) {
    const step = event.target.closest("[data-by]");
    if (step) return this.move(Number(step.dataset.by));
    const place = event.target.closest("[data-place]");
    if (place) return this.set(Number(place.dataset.place));
    if (this.svg.dataset.dial === "digits") return;
    this.svg.setPointerCapture(event.pointerId);
    this.point(event);
    event.preventDefault();
    this.svg.focus();
  }

  point(event) {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(
      this.svg.getScreenCTM().inverse(),
    );
    this.set(this.nearest(at[this.axis]));
  }

  key(event) {
    const wide = Math.max(1, Math.round((this.scale.high - this.scale.low) / 20));
    const by = { ...KEYS, PageUp: wide, PageDown: -wide }[event.key];
    if (by) this.move(by);
    else if (event.key === "Home") this.set(this.scale.low);
    else if (event.key === "End") this.set(this.scale.high);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  move(by) {
    const from = this.n ?? Math.round((this.scale.low + this.scale.high) / 2);
    this.set(this.n === null && Math.abs(by) === 1 ? from : from + by);
  }

  set(n, tell = true) {
    this.n = n === null ? null : Math.max(this.lowest, Math.min(this.highest, n));
    this.paint();
    if (tell) this.changed(this.n);
  }

  place(n) {
    const { low, high } = this.scale;
    if (this.stops && n >= low && n <= high) return this.stops[n - low];
    const [first, last] = this.stops ? [this.stops[0], this.stops.at(-1)] : [this.from, this.to];
    return (
      first +
      ((last - first) * (Math.max(low - 0.6, Math.min(high + 0.6, n)) - low)) / (high - low || 1)
    );
  }

  nearest(at) {
    if (!this.stops) {
      const n =
        this.scale.low +
        ((at - this.from) / (this.to - this.from)) * (this.scale.high - this.scale.low);
      const slack = (this.scale.high - this.scale.low) * 0.03;
      return Math.round(
        n > this.scale.high + slack || n < this.scale.low - slack
          ? n
          : Math.max(this.scale.low, Math.min(this.scale.high, n)),
      );
    }
    let best = this.lowest;
    for (let n = this.lowest; n <= this.highest; n += 1)
      if (Math.abs(this.place(n) - at) < Math.abs(this.place(best) - at)) best = n;
    return best;
  }

  said() {
    if (this.n === null) return "";
    if (this.n > this.scale.high) return this.words.over;
    if (this.n < this.scale.low) return this.words.under;
    return this.scale.labels ? say(this.scale, this.n) : shown(this.scale, this.n).figure;
  }

  paint() {
    const set = this.n !== null;
    const at = this.place(set ? this.n : this.scale.low);
    const unit = set && !this.scale.labels ? shown(this.scale, this.n).unit : this.scale.unit;
    this.svg.classList.toggle("unset", !set);
    this.svg.setAttribute("aria-valuenow", set ? this.n : this.lowest);
    this.svg.setAttribute(
      "aria-valuetext",
      set ? `${this.said()} ${unit}`.trim() : this.words.unset,
    );
    for (const part of this.svg.querySelectorAll("[data-mover]"))
      part.setAttribute(
        "transform",
        this.axis === "x" ? `translate(${at} 0)` : `translate(0 ${at})`,
      );
    for (const part of this.svg.querySelectorAll("[data-fill]")) this.fill(part, at);
    for (const part of this.svg.querySelectorAll("[data-figure]"))
      part.textContent = set ? this.said() : part.dataset.figure;
    for (const part of this.svg.querySelectorAll("[data-unit]")) part.textContent = unit;
    for (const part of this.svg.querySelectorAll("[data-at]"))
      part.classList.toggle("at", set && Number(part.dataset.at) === this.n);
    for (const part of this.svg.querySelectorAll("[data-turn]")) this.turn(part);
  }

  fill(part, at) {
    const base = Number(part.dataset.fill);
    const [side, length] = this.axis === "x" ? ["x", "width"] : ["y", "height"];
    part.setAttribute(side, Math.min(at, base));
    part.setAttribute(length, Math.abs(at - base));
  }

  // data-turn="first last": degrees at the ends of the scale, about the part's own origin.
  turn(part) {
    const [first, last] = part.dataset.turn.split(" ").map(Number);
    const share =
      ((this.n ?? this.scale.low) - this.scale.low) / (this.scale.high - this.scale.low || 1);
    part.setAttribute(
      "transform",
      `rotate(${first + (last - first) * Math.max(0, Math.min(1, share))})`,
    );
  }
}
