"""A stage's tables: what each reading comes to, as rows, bands or later.

row    enumerated: a whole finished row by reading (and by the blank before it, where that counts)
band   a scale too fine to enumerate: the figure as it is shown or from a list, the verdict by
       sorted thresholds; its range follows when sent
later  kept, the value follows when sent
"""

from decimal import Decimal
from itertools import pairwise
from typing import Any

from kessa_core.judging.context import PointContext
from kessa_core.judging.sentences import verdict_of
from kessa_core.methods.stage import Stage
from kessa_core.quantities.rounding import figure
from kessa_core.readings.exploring import explored, probes
from kessa_core.readings.reading import Count, Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.standards import standard_recovery
from kessa_core.sheets import rows

LISTED = 1200
"""Up to so many places the figures of a scale are listed."""
PROBES = 17
"""Places at which a band's verdict is first looked at; thresholds are then found between them."""


def tables(stage: Stage, reader: ReadingType, setting: PointContext) -> dict[str, Any]:
    """running, single, pair, beyond, below, absent; or shown, list and bands; and standard."""
    if stage.reference:
        return {"running": _running(reader)} | _standard(stage, reader)
    made = {"count": _counted, "place": _enumerated, "band": _banded, "later": _nothing}
    return made[reader.lookup](stage, reader, setting) | _standard(stage, reader)


def _nothing(_stage: Stage, _reader: ReadingType, _setting: PointContext) -> dict[str, Any]:
    return {}


def kinds(stage: Stage, reader: ReadingType, sheet: dict[str, Any]) -> dict[str, str]:
    """What each outcome of a stage is, for `./kessa methods check`."""
    made: dict[str, str] = {}
    for table in ("single", "pair", "beyond", "below", "absent"):
        if table in sheet:
            made[table] = f"{len(sheet[table])} rows"
    if "bands" in sheet:
        how = "as shown" if sheet.get("shown") else f"{len(sheet.get('list', []))} listed"
        made["reading"] = f"figures {how}, {len(sheet['bands'])} bands; range later"
    later = ["a third measurement"]
    if stage.reference:
        later = ["the difference and its verdict", *later]
    elif "single" in sheet:
        if any(":doubt:" in key for key in sheet["single"]):
            later.append("a pair with a doubtful or backed-off count")
        if stage.blank:
            later.append("an odd blank")
    elif "bands" in sheet:
        later.append("the mean of a pair")
    else:
        later = ["every value", *later]
    if stage.above.by:
        later.append("a diluted sample")
    made["later"] = "; ".join(later)
    return made


def _running(reader: ReadingType, base: int = 1) -> list[str]:
    """What a running count would come to."""
    measures = reader.measures
    top = reader.most
    times = Decimal(repr(base * reader.correction))
    figures = [times * reader.number(Count(n)) if n else 0 for n in range(top + 1)]
    return [f"{figure(number, measures.decimals)} {measures.unit}" for number in figures]


def _counted(stage: Stage, reader: ReadingType, setting: PointContext) -> dict[str, Any]:
    """Rows by blank, kind and count."""
    single: dict[str, Any] = {}
    pair: dict[str, Any] = {}
    beyond: dict[str, Any] = {}
    made: dict[str, Any] = {"running": _running(reader, stage.base)}
    first, top = reader.reach
    agree = stage.repeats.agree.steps or 0
    passing = stage.blank.passes_at_most if stage.blank else 0
    blanks = [Count(n) for n in range(first, passing + 1)] if stage.blank else []
    for blank in blanks or (None,):
        before = [blank] if blank else []
        key = "-" if blank is None else str(blank.n)
        beyond[key] = rows.full(reader, [Count(top, "beyond")], before, setting, stage.base)
        for n in range(first, top + 1):
            seen = [Count(n)]
            if n > first:
                seen.append(Count(n, "doubt"))
            if n and (blank or reader.backs_off):
                seen.append(Count(n, "backed-off"))
            for one in seen:
                single[f"{key}:{one.kind}:{n}"] = _row(stage, reader, one, before, setting)
            if stage.repeats.least == 1:
                continue
            for other in range(n, min(n + agree, top) + 1):
                both = [Count(n), Count(other)]
                pair[f"{key}:{n}:{other}"] = rows.full(reader, both, before, setting, stage.base)
    if reader.absent_below:
        made["absent"] = {"-": rows.full(reader, [Count(0, "absent")], [], setting, stage.base)}
    return made | {"single": single, "pair": pair, "beyond": beyond}


def _row(
    stage: Stage, reader: ReadingType, seen: Reading, blanks: list[Count], setting: PointContext
) -> dict[str, Any]:
    """Where one determination is enough its row is the result's, with all its sentences."""
    whole = stage.repeats.least == 1
    return (rows.full if whole else rows.short)(reader, [seen], blanks, setting, stage.base)


def _enumerated(stage: Stage, reader: ReadingType, setting: PointContext) -> dict[str, Any]:
    """Rows by half steps."""
    single: dict[str, Any] = {}
    pair: dict[str, Any] = {}
    made: dict[str, Any] = {"single": single, "pair": pair}
    agree = stage.repeats.agree.steps
    first, last = reader.reach
    for n in range(first, last + 1):
        one = reader.example(n)
        single[f"-:plain:{reader.half_steps(one)}"] = _row(stage, reader, one, [], setting)
        if stage.repeats.least == 1 or agree is None:
            continue
        for m in range(n, min(n + agree, last) + 1):
            both = [one, reader.example(m)]
            key = f"-:{reader.half_steps(both[0])}:{reader.half_steps(both[1])}"
            pair[key] = rows.full(reader, both, [], setting, stage.base)
    return made | _outside(stage, reader, setting)


def _outside(stage: Stage, reader: ReadingType, setting: PointContext) -> dict[str, Any]:
    """The rows above the top and below the foot, where the scale has them."""
    return {
        seen.kind: {"-": rows.full(reader, [seen], [], setting, stage.base)}
        for seen in reader.outside()
    }


def _banded(stage: Stage, reader: ReadingType, setting: PointContext) -> dict[str, Any]:
    """The figure as shown or listed; the verdict by thresholds in half steps."""
    scale, measures = reader.main, reader.measures
    first, last = reader.reach
    made: dict[str, Any] = {
        "first": first,
        "u": measures.quantity.label,
        "bands": _bands(reader, setting, first, last, stage.base),
    }
    times = Decimal(repr(stage.base * reader.correction))
    if times == 1 and not scale.ranges and _reports_as_shown(reader, first, last):
        made["shown"] = True
    elif last - first < LISTED:
        made["list"] = [
            figure(times * reader.mean([seen]), measures.decimals, measures.rounding)
            for seen in map(reader.example, range(first, last + 1))
        ]
    return made | _outside(stage, reader, setting)


def _reports_as_shown(reader: ReadingType, first: int, last: int) -> bool:
    """Whether what the one display shows is the figure that is reported, along its whole scale."""
    scale, measures = reader.main, reader.measures
    return len(reader.reading_fields) == 1 and all(
        scale.say(seen.n) == figure(reader.mean([seen]), measures.decimals, measures.rounding)
        for seen in map(reader.example, probes(first, last, PROBES))
    )


def _bands(
    reader: ReadingType, setting: PointContext, first: int, last: int, base: int
) -> list[list[Any]]:
    """Rows [half steps, sign, words, against]: from here on this verdict."""

    def at(position: int) -> tuple[str, str, str]:
        seen = reader.example(position)
        value = reader.sample_value([seen], [seen], (), base, base)
        verdict = verdict_of(value, setting)
        return verdict.sign, verdict.words, verdict.against

    if not setting.limits:
        return [[2 * first, *at(first)]]
    verdicts = explored(at, probes(first, last, PROBES))
    found = [[2 * first, *verdicts[first]]]
    for low, high in pairwise(verdicts):
        if verdicts[low] != verdicts[high]:
            found.append([2 * high, *verdicts[high]])
    return found


def _standard(stage: Stage, reader: ReadingType) -> dict[str, Any]:
    """Half steps between which a standard is inside its window, and its words by reading."""
    if not stage.standard or reader.lookup == "later" or reader.main.count > LISTED:
        return {}
    said: dict[int, list[Any]] = {}
    for one in reader.examples():
        found = standard_recovery(stage, reader, one)
        if found and 30 <= found.percent <= 200:
            said[reader.half_steps(one)] = [int(found.passes), found.line]
    return {"standard": said}
