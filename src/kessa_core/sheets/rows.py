"""One row of a sheet: what a reading comes to, in finished words, with its gauge."""

from collections.abc import Sequence
from typing import Any

from kessa_core.errors import NoConversion
from kessa_core.judging import Limit, Verdict, gauge
from kessa_core.judging.context import PointContext
from kessa_core.judging.gauge import scale
from kessa_core.judging.sentences import result_sentences, short_sentences, verdict_of
from kessa_core.quantities import Value
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.stage_readers import working_line


def gauge_maximums(setting: PointContext) -> list[float]:
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


def row(value: Value, verdict: Verdict, setting: PointContext) -> dict[str, Any]:
    """Figure, range, sign, words and gauge positions (per mille) of one value."""
    drawn = gauge(
        as_limited(value, setting.limits), setting.limits, verdict.sign, verdict.words,
        setting.usual_band,
    )  # fmt: skip
    scales = gauge_maximums(setting)
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
    reader: ReadingType,
    used: Sequence[Reading],
    blanks: Sequence[Reading],
    setting: PointContext,
    base: int = 1,
) -> dict[str, Any]:
    """The row of one determination on its own, multiplied back where it was diluted."""
    value = reader.sample_value(used, used, blanks, base, base)
    return row(value, verdict_of(value, setting), setting)


def full(
    reader: ReadingType,
    used: Sequence[Reading],
    blanks: Sequence[Reading],
    setting: PointContext,
    base: int = 1,
) -> dict[str, Any]:
    """The row of a result, with its working line and its sentences."""
    value = reader.sample_value(used, used, blanks, base, base)
    verdict = verdict_of(value, setting)
    working = working_line(reader, used, blanks, base, value)
    if base == reader.correction == 1:
        sentences = result_sentences(reader, value, verdict, used, blanks, setting)
    else:
        sentences = short_sentences(value, verdict, reader.measures.also, setting)
    return row(value, verdict, setting) | {"k": working, "t": sentences}
