"""State -> outcomes: a value with its interval and working line, a bound, or why there is none."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from kessa_core.errors import NotANumber
from kessa_core.methods import Method
from kessa_core.methods.parts import Derived
from kessa_core.methods.stage import Stage
from kessa_core.quality.agreement import recovery, spike_recovery
from kessa_core.quality.repeats import Decision, agreeing, decide
from kessa_core.quantities import Interval, Quantity, Value
from kessa_core.quantities.rounding import figure
from kessa_core.readings.reader import NO_LOT, Lot, Reader
from kessa_core.readings.seen import Seen
from kessa_core.runs.joint import difference
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


def conclude(method: Method, state: RunState, lot: Lot = NO_LOT) -> tuple[Outcome, ...]:
    """The outcome of every stage, then of every derived quantity, in the document's order.

    A stage that has not ended has no value yet; nor has a difference while one of its two lacks.
    """
    made = [
        conclude_stage(stage, held, state.flags, lot)
        for stage, held in zip(method.stages, state.stages, strict=True)
    ]
    return (*made, *(_derived(one, method, state, made, lot) for one in method.derived))


def conclude_stage(
    stage: Stage, held: StageState, flags: Sequence[str] = (), lot: Lot = NO_LOT
) -> Outcome:
    """The outcome of one stage."""
    reader = sized_for(stage, held, lot)
    checks, failing = _checks(stage, held, reader)
    outcome = Outcome(
        stage.id, stage.measures.quantity, held.finish, cause=held.cause,
        flags=(*flags, *held.flags, *failing), checks=checks,
    )  # fmt: skip
    samples, seen = _samples(held)
    if not samples or held.finish not in ("done", "beyond", "not-repeatable"):
        return outcome
    blanks = [d.seen for d in held.blanks if d.seen]
    outside = next((d for d in samples if d.kind in ("beyond", "absent", "below")), None)
    if outside and outside.seen:
        value = value_of(stage, held, [outside.seen], [outside.seen], blanks, reader)
        working = _working(stage, held, [outside.seen], blanks, value, reader)
        return replace(outcome, value=value, used=(outside.id,), working=working)
    rule = stage.repeats
    halves = [reader.halves(one) for one in seen]
    repeat = decide(halves, agreeing(rule.agree, reader), rule.least)
    if repeat.decision not in ("single", "agree", "closest-two", "all-three"):
        cause = held.cause or _no_agreement(stage, reader, seen)
        return replace(outcome, decision=repeat.decision, cause=cause)
    all_of_them = tuple(range(len(seen)))
    chosen = {"first": repeat.used[:1], "mean": repeat.used, "all": all_of_them}[rule.report]
    used = [seen[i] for i in chosen]
    value = value_of(stage, held, used, seen, blanks, reader)
    return replace(
        outcome,
        value=value,
        decision=repeat.decision,
        used=tuple(samples[i].id for i in chosen),
        working=_working(stage, held, used, blanks, value, reader),
        apart=reader.apart(value, blanks) if not stage.reference else "",
    )


def sized_for(stage: Stage, held: StageState, lot: Lot) -> Reader:
    """The stage's principle; with the doubt of a dilution where the sample was diluted."""
    reader = prediluted(stage, lot)
    return reader.diluted(stage.above.sd) if held.extra else reader


def prediluted(stage: Stage, lot: Lot) -> Reader:
    """The stage's principle as every sample of it is read."""
    reader = stage.reader(lot)
    return reader.diluted(stage.predilution.sd) if stage.predilution else reader


def value_of(
    stage: Stage,
    held: StageState,
    used: Sequence[Seen],
    every: Sequence[Seen],
    blanks: Sequence[Seen],
    reader: Reader,
) -> Value:
    """The reported value of *used*, multiplied back where diluted; less the reference water's.

    The interval uses *every* determination that was not rejected. A difference needs no margin to a
    limit beyond its interval: two steps smear each other (docs/science/coverage.md).
    """
    value = reader.value(used, every, blanks).scaled(float(held.dilution), held.base)
    if not stage.reference:
        return value
    beside = [d.seen for d in held.kept("reference") if d.seen]
    if not beside or value.qualifier:
        return value
    number = float(reader.mean(used)) * held.dilution - float(reader.mean(beside))
    interval = difference(reader, every, stage.reader(reader.lot), beside, (held.dilution, 1.0))
    return replace(value, number=number, interval=interval, clear=0.0)


def _samples(held: StageState) -> tuple[list[Determination], list[Seen]]:
    samples = held.samples
    return samples, [d.seen for d in samples if d.seen]


def _working(
    stage: Stage,
    held: StageState,
    used: Sequence[Seen],
    blanks: Sequence[Seen],
    value: Value,
    reader: Reader,
) -> str:
    beside = [d.seen for d in held.kept("reference") if d.seen]
    if stage.reference and beside and not value.qualifier:
        unit = f" {reader.counts}" if reader.counts else ""
        more, less = (", ".join(map(reader.said, some)) for some in (used, beside))
        return f"sample {more}, {stage.reference.water} {less}{unit}: {value.text}"
    if held.dilution == 1:
        return reader.working(used, blanks, value)
    return multiplied_back(reader, used, blanks, held.dilution, value)


def multiplied_back(
    reader: Reader, used: Sequence[Seen], blanks: Sequence[Seen], times: int, value: Value
) -> str:
    """The working line of a diluted sample: what was read, in figures fine enough to be multiplied,
    and the dilution."""
    plain = reader.value(used, used, blanks)
    line = reader.working(used, blanks, replace(plain, decimals=plain.decimals + len(str(times))))
    return f"{line}, × {times} for the dilution = {value.text}"


def _no_agreement(stage: Stage, reader: Reader, seen: Sequence[Seen]) -> str:
    rule = stage.repeats.agree
    within = rule.steps if rule.steps is not None else f"{rule.relative_percent:g} %"
    unit = f" {reader.counts}" if reader.counts else ""
    said = ", ".join(map(reader.said, seen))
    return f"{said}{unit}: no two agree within {within}"


def _checks(stage: Stage, held: StageState, reader: Reader) -> tuple[tuple[str, ...], list[str]]:
    """What standard and spike came to, in words; and those outside their window."""
    said, failing = [], []
    for words, percent, low, high in _recoveries(stage, held, reader):
        inside = low <= percent <= high
        where = "inside" if inside else "outside"
        line = f"{words}: {figure(percent, 1)} %, {where} {low}–{high} %"
        said.append(line)
        if not inside:
            failing.append(line)
    return tuple(said), failing


def recovered(stage: Stage, reader: Reader, seen: Seen) -> tuple[str, float, int, int] | None:
    """A standard's words, recovery in percent and window."""
    rule = stage.standard
    if not rule:
        return None
    found = reader.number(seen)
    words = f"standard {rule.value} found {reader.shown(found)}"
    return words, recovery(float(found), float(rule.value)), rule.low_percent, rule.high_percent


def _recoveries(
    stage: Stage, held: StageState, reader: Reader
) -> list[tuple[str, float, int, int]]:
    standards = [d.seen for d in held.kept("standard") if d.seen]
    undiluted = stage.reader(reader.lot)
    made = [found for seen in standards if (found := recovered(stage, undiluted, seen))]
    spiked, rule = [d.seen for d in held.kept("spike") if d.seen], stage.spike
    _, samples = _samples(held)
    if rule and spiked and samples:
        plain, more = reader.mean(samples), reader.mean(spiked)
        try:
            after, before = (float(one) * held.dilution for one in (more, plain))
            percent = spike_recovery(after, before, float(rule.added))
        except NotANumber:
            return made
        words = f"spike {rule.added}, {reader.shown(plain)} became {reader.shown(more)}"
        made.append((words, percent, rule.low_percent, rule.high_percent))
    return made


def _derived(
    one: Derived, method: Method, state: RunState, made: Sequence[Outcome], lot: Lot
) -> Outcome:
    """First stage less second, with what they share taken out once."""
    names = [stage.id for stage in method.stages]
    at = [names.index(name) for name in one.less]
    more, less = made[at[0]], made[at[1]]
    flags = tuple(dict.fromkeys((*more.flags, *less.flags)))
    empty = Outcome(one.id, one.measures.quantity, "", flags=flags)
    if not more.finish or not less.finish:
        return empty
    if not more.value or not less.value or more.value.qualifier == ">" or less.value.qualifier:
        for stage in (more, less):
            if stage.finish == "not-applicable":
                return replace(empty, finish="not-applicable", cause=stage.cause)
        cause = f"{method.stages[at[0]].title} and {method.stages[at[1]].title} are both needed"
        return replace(empty, finish="not-tested", cause=cause)
    held = [state.stages[i] for i in at]
    readers = [sized_for(method.stages[i], state.stages[i], lot) for i in at]
    seen = [_samples(stage)[1] for stage in held]
    scales = (float(held[0].dilution), float(held[1].dilution))
    interval = difference(readers[0], seen[0], readers[1], seen[1], scales)
    value, working = subtracted(one, more.value, less.value, interval)
    return replace(empty, finish="done", value=value, working=working)


def subtracted(one: Derived, more: Value, less: Value, interval: Interval) -> tuple[Value, str]:
    """The difference and its working line; one smaller than its own doubt is "not detected"."""
    m = one.measures
    number = more.number - less.number
    line = f"{more.figure} − {less.figure}"
    detected = interval.low is not None and interval.low > 0 and number > 0
    if detected:
        value = Value(m.quantity, number, m.decimals, interval, "", "difference", m.rounding)
        return value, f"{line} = {value.text}"
    high = max(interval.high or 0.0, 0.0)
    bound = Value(
        m.quantity, high, m.decimals, Interval(0.0, high), "<", "difference", said="not detected"
    )
    exact = Decimal(repr(round(number, 9)))
    return bound, f"{line} = {figure(exact, m.decimals)}, smaller than its own doubt: not detected"
