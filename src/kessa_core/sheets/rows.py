"""One row of a sheet: what a reading comes to, in finished words, with its gauge."""

from dataclasses import dataclass
from typing import Any

from kessa_core.judging import Limit, Verdict, gauge, judge, leading
from kessa_core.judging.decide import deciders, sentence
from kessa_core.judging.gauge import scale
from kessa_core.methods import Method
from kessa_core.quantities import Interval, Value
from kessa_core.readings.dropcount import DropReading
from kessa_core.runs.conclude import value_beyond, value_of, why_apart, working_line
from kessa_core.trends.usual import Usual, against


@dataclass(frozen=True)
class Setting:
    """Where a run is made: the limits in force there and what is usual there."""

    limits: tuple[Limit, ...] = ()
    usual: Usual | None = None

    @property
    def usual_band(self) -> Interval | None:
        return self.usual.band if self.usual else None


def tops(setting: Setting) -> list[float]:
    """The scales a gauge of this setting may have."""
    found = {scale(setting.limits, float(limit.max)) for limit in setting.limits if limit.max}
    return sorted(found) or [scale((), 100.0)]


def row(value: Value, verdict: Verdict, setting: Setting) -> dict[str, Any]:
    """Figure, range, sign, words and gauge positions (per mille) of one value."""
    drawn = gauge(value, setting.limits, verdict.sign, verdict.words, setting.usual_band)
    scales = tops(setting)
    whisker = drawn.whisker or (0.0, 0.0)
    return {
        "f": value.figure,
        "u": value.quantity.label,
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


def single(
    method: Method, reading: DropReading, blank: DropReading, setting: Setting
) -> dict[str, Any]:
    """The row of one determination on its own."""
    value = value_of(method, [reading], [reading], [blank])
    return row(value, _verdict(value, setting), setting)


def pair(
    method: Method, readings: list[DropReading], blank: DropReading, setting: Setting
) -> dict[str, Any]:
    """The row of a result from two determinations that agree, with its sentences."""
    value = value_of(method, readings, readings, [blank])
    verdict = _verdict(value, setting)
    made = row(value, verdict, setting)
    return made | {
        "k": working_line(method, readings, [blank], value),
        "t": told(method, value, verdict, readings, [blank], setting),
    }


def beyond(method: Method, blank: DropReading, setting: Setting) -> dict[str, Any]:
    """The row kept when nothing changed at the maximum count."""
    reading = DropReading(method.titration.max_drops, "beyond")
    value = value_beyond(method, [reading], [blank])
    verdict = _verdict(value, setting)
    return row(value, verdict, setting) | {
        "t": told(method, value, verdict, [reading], [blank], setting)
    }


def told(
    method: Method,
    value: Value,
    verdict: Verdict,
    readings: list[DropReading],
    blanks: list[DropReading],
    setting: Setting,
) -> list[str]:
    """The sentences of a result: verdict, what would decide, the place's normal, why apart."""
    sentences = [verdict.sentence]
    if verdict.sign == "close" and verdict.limit and not value.qualifier:
        choices = deciders(method, value, verdict.limit, readings, blanks)
        sentences.append(sentence(choices))
    if setting.usual and not value.qualifier:
        band = setting.usual.text(value.decimals)
        how = against(value.number, setting.usual)
        sentences.append(f"Usual here {band}: {how}.")
    if apart := why_apart(method, value, blanks):
        sentences.append(apart)
    return sentences


def _verdict(value: Value, setting: Setting) -> Verdict:
    return leading(judge(value, limit) for limit in setting.limits)
