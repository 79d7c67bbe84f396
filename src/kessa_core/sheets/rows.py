"""One row of a sheet: what a reading comes to, in finished words, with its gauge."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from kessa_core.errors import NoConversion
from kessa_core.judging import Limit, Verdict, gauge, judge, leading
from kessa_core.judging.decide import deciders, sentence
from kessa_core.judging.gauge import scale
from kessa_core.judging.verdict import inapplicable
from kessa_core.methods.fitness import NOTHING_KNOWN, Known
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.readings.reader import Reader
from kessa_core.readings.seen import Seen
from kessa_core.runs.conclude import multiplied_back
from kessa_core.trends.usual import Usual, against


@dataclass(frozen=True)
class Setting:
    """Where a run is made: the limits in force there and what is usual there; what is known of the
    sample; what the programme says of each route of waste. others: limits of the parameter that
    cannot be applied to the quantity."""

    limits: tuple[Limit, ...] = ()
    usual: Usual | None = None
    lots: Lots = NO_LOTS
    usuals: tuple[tuple[Quantity, Usual], ...] = ()
    known: Known = NOTHING_KNOWN
    waste: tuple[tuple[str, str], ...] = ()
    others: tuple[Limit, ...] = ()

    @property
    def usual_band(self) -> Interval | None:
        """The band that is usual here."""
        return self.usual.band if self.usual else None

    def of(self, quantity: Quantity) -> "Setting":
        """The limits that are for this quantity, those of its parameter that cannot be applied to
        it, and what is usual for it."""
        about = [limit for limit in self.limits if limit.parameter == quantity.parameter]
        kept = tuple(limit for limit in about if not inapplicable(quantity, limit))
        others = tuple(limit for limit in about if limit not in kept)
        usual = dict(self.usuals).get(quantity, self.usual)
        return Setting(kept, usual, self.lots, others=others)


def tops(setting: Setting) -> list[float]:
    """The scales a gauge of this setting may have."""
    found = {
        scale((limit,), float(limit.max or limit.min or 0))
        for limit in setting.limits
        if limit.max or limit.min
    }
    return sorted(found) or [scale((), 100.0)]


def as_limited(value: Value, limits: Sequence[Limit]) -> Value:
    """The value in the basis and unit of the first limit, for a gauge drawn on its scale."""
    if not limits:
        return value
    try:
        return value.converted(basis=limits[0].basis, unit=limits[0].unit)
    except NoConversion:
        return value


def row(value: Value, verdict: Verdict, setting: Setting) -> dict[str, Any]:
    """Figure, range, sign, words and gauge positions (per mille) of one value."""
    drawn = gauge(
        as_limited(value, setting.limits), setting.limits, verdict.sign, verdict.words,
        setting.usual_band,
    )  # fmt: skip
    scales = tops(setting)
    whisker = drawn.whisker or (0.0, 0.0)
    return {
        "f": value.figure,
        "u": "" if value.quantity.unit == "degree" else value.quantity.label,
        "r": value.range_text,
        "s": verdict.sign,
        "w": verdict.words,
        "a": verdict.against,
        "g": [
            min(range(len(scales)), key=lambda i: abs(scales[i] - drawn.top)),
            round((drawn.mark or 0) * 1000),
            round(whisker[0] * 1000),
            round(whisker[1] * 1000),
            int(drawn.over),
        ],
    }


def short(
    reader: Reader, used: Sequence[Seen], blanks: Sequence[Seen], setting: Setting, base: int = 1
) -> dict[str, Any]:
    """The row of one determination on its own, multiplied back where it was diluted."""
    value = reader.value(used, used, blanks).scaled(float(base), base)
    return row(value, verdict_of(value, setting), setting)


def full(
    reader: Reader, used: Sequence[Seen], blanks: Sequence[Seen], setting: Setting, base: int = 1
) -> dict[str, Any]:
    """The row of a result, with its working line and its sentences."""
    value = reader.value(used, used, blanks).scaled(float(base), base)
    verdict = verdict_of(value, setting)
    if base == 1:
        working = reader.working(used, blanks, value)
        sentences = told(reader, value, verdict, used, blanks, setting)
    else:
        working = multiplied_back(reader, used, blanks, base, value)
        sentences = briefly(value, verdict, reader.measures.also, setting)
    return row(value, verdict, setting) | {"k": working, "t": sentences}


def briefly(value: Value, verdict: Verdict, also: Sequence[str], setting: Setting) -> list[str]:
    """The sentences of a value that was multiplied back or subtracted."""
    said = [
        verdict.sentence, verdict.as_printed, also_said(value, also), usual_said(value, setting),
    ]  # fmt: skip
    return [line for line in said if line]


def told(
    reader: Reader,
    value: Value,
    verdict: Verdict,
    seen: Sequence[Seen],
    blanks: Sequence[Seen],
    setting: Setting,
    apart: str | None = None,
) -> list[str]:
    """The sentences of a result: verdict, what would decide, the place's normal, why apart."""
    sentences = [line for line in (verdict.sentence, verdict.as_printed) if line]
    if other := also_said(value, reader.measures.also):
        sentences.append(other)
    if verdict.sign == "close" and verdict.limit and not value.qualifier:
        choices = deciders(reader, value, verdict.limit, seen, blanks)
        sentences.append(sentence(choices))
    if normal := usual_said(value, setting):
        sentences.append(normal)
    if why := reader.apart(value, blanks) if apart is None else apart:
        sentences.append(why)
    return sentences


def usual_said(value: Value, setting: Setting) -> str:
    """How the value stands to what is usual here; nothing for a bound or without a normal."""
    if not setting.usual or value.qualifier:
        return ""
    band = setting.usual.text(value.decimals)
    return f"Usual here {band}: {against(value.number, setting.usual)}."


def also_said(value: Value, bases: Sequence[str]) -> str:
    """The same value in the other bases that the method says it in; nothing where there is none."""
    said = [value.converted(basis=basis).text for basis in bases]
    return f"The same as {', or '.join(said)}." if said and not value.said else ""


def verdict_of(value: Value, setting: Setting) -> Verdict:
    """The verdict that leads; where no limit can be applied, why."""
    return leading(judge(value, limit) for limit in setting.limits or setting.others)
