"""State -> outcomes: a value with its interval and working line, a bound, or why there is none."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from kessa_core.documents import Measurand
from kessa_core.methods import Method
from kessa_core.methods.parts import Derived
from kessa_core.methods.stage import Stage
from kessa_core.quality.agreement import spike_recovery
from kessa_core.quality.repeats import Decision, Repeat, agreeing, decide
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.quantities.rounding import figure
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.joint import Difference, difference
from kessa_core.runs.stage_readers import reader_of_run, working_line
from kessa_core.runs.standards import Recovery, standard_recovery
from kessa_core.runs.state import Determination, Finish, RunState, StageState


@dataclass(frozen=True)
class Outcome:
    """What one stage, or a difference of two, reports.

    used: ids of the determinations that make the reported value. apart: why the reported value
    lies outside its own interval, when it does. checks: what a standard or a spike came to.
    """

    stage: str
    quantity: Quantity
    finish: Finish
    value: Value | None = None
    decision: Decision = "more"
    used: tuple[str, ...] = ()
    working: str = ""
    apart: str = ""
    cause: str = ""
    flags: tuple[str, ...] = field(default=())
    checks: tuple[str, ...] = field(default=())


def conclude(method: Method, state: RunState, lots: Lots = NO_LOTS) -> tuple[Outcome, ...]:
    """The outcome of every stage, then of every derived quantity, in the document's order.

    A stage that has not ended has no value yet; nor has a difference while one of its two lacks.
    """
    flags = [*state.flags, *_clock_flags(state)]
    made = [
        conclude_stage(stage, held, flags, lots)
        for stage, held in zip(method.stages, state.stages, strict=True)
    ]
    return (*made, *(_derived(one, method, state, made, lots) for one in method.derived))


def _clock_flags(state: RunState) -> list[str]:
    """What is said of times that were corrected."""
    seconds = abs(state.clock_off_ms) / 1000
    if not seconds:
        return []
    units = ((86400, "day"), (3600, "hour"), (60, "minute"))
    size, name = next((one for one in units if seconds >= 1.5 * one[0]), (60, "minute"))
    count, way = round(seconds / size), "slow" if state.clock_off_ms > 0 else "fast"
    length = f"{count} {name}{'s' if count > 1 else ''}"
    return [f"The device’s clock was {length} {way}; times are corrected."]


def conclude_stage(
    stage: Stage, held: StageState, flags: Sequence[str] = (), lots: Lots = NO_LOTS
) -> Outcome:
    """The outcome of one stage."""
    reader = reader_of_run(stage, held, lots)
    samples, seen = _samples(held)
    rule = stage.repeats
    repeat = decide(
        [reader.half_steps(one) for one in seen], agreeing(rule.agree, reader), rule.least
    )
    if held.cut_short and len(seen) == 1:
        repeat = Repeat("single", (0,))
    all_of_them = tuple(range(len(seen)))
    chosen = {"first": repeat.used[:1], "mean": repeat.used, "all": all_of_them}[rule.report]
    used = [seen[i] for i in chosen]
    checks, failing = _checks(stage, held, reader, used)
    outcome = Outcome(
        stage.id, stage.measures.quantity, held.finish, cause=held.cause,
        flags=(*flags, *held.flags, *failing, *_read_otherwise(stage, held, reader)),
        checks=checks,
    )  # fmt: skip
    if not samples or held.finish not in ("done", "beyond", "not-repeatable"):
        return outcome
    blanks = [d.seen for d in held.blanks if d.seen]
    outside = next((d for d in samples if d.kind in ("beyond", "absent", "below")), None)
    if outside and outside.seen:
        value, _ = value_of(stage, held, [outside.seen], [outside.seen], blanks, reader)
        working = _working(stage, held, [outside.seen], blanks, value, reader)
        return replace(outcome, value=value, used=(outside.id,), working=working)
    if repeat.decision not in ("single", "agree", "closest-two", "all-three"):
        cause = held.cause or _no_agreement(stage, reader, seen)
        return replace(outcome, decision=repeat.decision, cause=cause)
    value, flag = value_of(stage, held, used, seen, blanks, reader)
    return replace(
        outcome,
        value=value,
        flags=(*outcome.flags, flag) if flag else outcome.flags,
        decision=repeat.decision,
        used=tuple(samples[i].id for i in chosen),
        working=_working(stage, held, used, blanks, value, reader),
        apart=reader.explain_offset(value, blanks) if not stage.reference else "",
    )


def value_of(
    stage: Stage,
    held: StageState,
    used: Sequence[Reading],
    every: Sequence[Reading],
    blanks: Sequence[Reading],
    reader: ReadingType,
) -> tuple[Value, str]:
    """The reported value of *used*, multiplied back where diluted; less the reference water's; and
    a flag where the two cannot belong together.

    The interval uses *every* determination that was not rejected.
    """
    value = reader.sample_value(used, every, blanks, held.dilution, held.base)
    if not stage.reference:
        return value, ""
    beside = [d.seen for d in held.kept("reference") if d.seen]
    if not beside or value.qualifier:
        return value, ""
    scales = (held.dilution * reader.correction, reader.correction)
    number = float(reader.mean(used)) * scales[0] - float(reader.mean(beside)) * scales[1]
    found = difference(reader, every, stage.reader(reader.lots), beside, scales)
    flag = impossible("the sample", stage.reference.water) if found.impossible else ""
    return subtracted(stage.measures, number, found, reader.words), flag


def _samples(held: StageState) -> tuple[list[Determination], list[Reading]]:
    samples = held.samples
    return samples, [d.seen for d in samples if d.seen]


def _read_otherwise(stage: Stage, held: StageState, reader: ReadingType) -> list[str]:
    """The second readings of photographs that do not agree with the first, as a repeat would."""
    agree = agreeing(stage.repeats.agree, reader)
    found = []
    for d in held.determinations:
        if not d.kept or d.seen is None or d.kind != "plain":
            continue
        places = {slot: one.n for slot, one in d.again.items()}
        if not places:
            continue
        last = d.slots[-1]
        beside = tuple((slot, places.get(slot, n)) for slot, n in d.seen.beside)
        again = Reading(places.get(last, d.seen.n), "plain", beside)
        if not agree(reader.half_steps(d.seen), reader.half_steps(again)):
            words = reader.format_reading(d.seen), reader.format_reading(again)
            found.append(f"Read {words[0]} from its photograph, {words[1]} by a second person")
    return found


def _working(
    stage: Stage,
    held: StageState,
    used: Sequence[Reading],
    blanks: Sequence[Reading],
    value: Value,
    reader: ReadingType,
) -> str:
    beside = [d.seen for d in held.kept("reference") if d.seen]
    if stage.reference and beside and not value.qualifier:
        more, less = ", ".join(map(reader.format_reading, used)), reader.listed(beside)
        return f"sample {more}, {stage.reference.water} {less}: {value.text}"
    return working_line(reader, used, blanks, held.dilution, value)


def _no_agreement(stage: Stage, reader: ReadingType, seen: Sequence[Reading]) -> str:
    rule = stage.repeats.agree
    within = rule.steps if rule.steps is not None else f"{rule.relative_percent:g} %"
    return f"{reader.listed(seen)}: no two agree within {within}"


def _checks(
    stage: Stage, held: StageState, reader: ReadingType, used: Sequence[Reading]
) -> tuple[tuple[str, ...], list[str]]:
    """What standard and spike came to, in words; and those outside their window."""
    found = _recoveries(stage, held, reader, used)
    return tuple(one.line for one in found), [one.line for one in found if not one.passes]


def standards_of(
    method: Method, state: RunState, lots: Lots = NO_LOTS
) -> tuple[tuple[Stage, Recovery], ...]:
    """What the last standard that stands in each stage came to."""
    made = []
    for stage, held in zip(method.stages, state.stages, strict=True):
        seen = [d.seen for d in held.kept("standard") if d.seen]
        if seen and (found := standard_recovery(stage, stage.reader(lots), seen[-1])):
            made.append((stage, found))
    return tuple(made)


def _recoveries(
    stage: Stage, held: StageState, reader: ReadingType, used: Sequence[Reading]
) -> list[Recovery]:
    """Standards and spikes. A spike is held against the determinations that make the result."""
    standards = [d.seen for d in held.kept("standard") if d.seen]
    undiluted = stage.reader(reader.lots)
    made = [found for seen in standards if (found := standard_recovery(stage, undiluted, seen))]
    spiked, rule = [d.seen for d in held.kept("spike") if d.seen], stage.spike
    if rule and spiked and used:
        before, after = reader.mean(used), reader.mean(spiked)
        scale = held.dilution * reader.correction
        percent = spike_recovery(float(after) * scale, float(before) * scale, float(rule.added))
        words = (
            f"spike: {rule.added} added to {reader.shown(float(before) * scale)}, "
            f"{reader.shown(float(after) * scale)} found, "
            f"{reader.shown(float(after - before) * scale)} recovered"
        )
        made.append(Recovery(words, percent, rule.low_percent, rule.high_percent))
    return made


def _derived(
    one: Derived, method: Method, state: RunState, made: Sequence[Outcome], lots: Lots
) -> Outcome:
    """First stage less second, in the unit and basis of the difference, with what they share taken
    out once."""
    names = [stage.id for stage in method.stages]
    at = [names.index(name) for name in one.less]
    more, less = made[at[0]], made[at[1]]
    flags = tuple(dict.fromkeys((*more.flags, *less.flags)))
    empty = Outcome(one.id, one.measures.quantity, "", flags=flags)
    if not more.finish or not less.finish:
        return empty
    titles = [method.stages[i].title for i in at]
    if "awaiting" in (more.finish, less.finish):
        return replace(empty, finish="awaiting")
    if not more.value or not less.value or more.value.qualifier == ">" or less.value.qualifier:
        for stage in (more, less):
            if stage.finish == "not-applicable":
                return replace(empty, finish="not-applicable", cause=stage.cause)
        cause = f"{titles[0]} and {titles[1]} are both needed"
        return replace(empty, finish="not-tested", cause=cause)
    held = [state.stages[i] for i in at]
    readers = [reader_of_run(method.stages[i], state.stages[i], lots) for i in at]
    seen = [_samples(stage)[1] for stage in held]
    counts = one.counts([method.stages[i].measures for i in at])
    scales = tuple(
        one.dilution * reader.correction * count
        for one, reader, count in zip(held, readers, counts, strict=True)
    )
    found = difference(readers[0], seen[0], readers[1], seen[1], (scales[0], scales[1]))
    number = more.value.number * counts[0] - less.value.number * counts[1]
    value = subtracted(one.measures, number, found, "difference")
    if found.impossible:
        flags = (*flags, impossible(titles[0], titles[1]))
    working = _subtraction(one, (more.value, less.value), counts, number, value)
    return replace(empty, finish="done", value=value, working=working, flags=flags)


def subtracted(m: Measurand, number: float, found: Difference, how: str) -> Value:
    """The difference; one that cannot be told from nothing is "not detected", with a bound."""
    low, high = found.interval.low or 0.0, found.interval.high or 0.0
    if low > 0 and number > 0:
        return Value(m.quantity, number, m.decimals, found.interval, "", how, m.rounding)
    return Value(
        m.quantity, high, m.decimals, Interval(0.0, high), "<", how,
        said=f"not detected, < {figure(high, m.decimals, 'up')}",
    )  # fmt: skip


def impossible(more: str, less: str) -> str:
    """The flag of a pair of which the part reads higher than the whole, with likely causes."""
    return (
        f"{less} reads above {more}, by more than both are uncertain. Likely: the two portions "
        "were exchanged, a reading slipped, or a dilution was not multiplied back"
    )


def _subtraction(
    one: Derived, values: tuple[Value, Value], counts: tuple[float, float], number: float,
    value: Value,
) -> str:  # fmt: skip
    """ "2.10 − 1.60 = 0.50 mg/L", with what converts a basis or unit."""
    sides = [
        held.figure if round(count, 9) == 1 else f"{held.figure} × {count:.4g}"
        for held, count in zip(values, counts, strict=True)
    ]
    line = f"{sides[0]} − {sides[1]}"
    if not value.qualifier:
        return f"{line} = {value.text}"
    exact = figure(Decimal(repr(round(number, 9))), one.measures.decimals)
    return f"{line} = {exact}, within the uncertainty of the two: {value.text}"
