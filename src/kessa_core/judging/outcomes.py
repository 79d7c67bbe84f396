"""The sentences of an outcome, as the sheet says them where it can and the server everywhere."""

from kessa_core.judging.context import PointContext
from kessa_core.judging.sentences import also_said, result_sentences, short_sentences
from kessa_core.judging.verdict import Verdict
from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.readings.lots import Lots
from kessa_core.runs import Outcome, RunState
from kessa_core.runs.stage_readers import reader_of_run
from kessa_core.runs.state import StageState


def sentences(
    method: Method, state: RunState, outcome: Outcome, verdict: Verdict, setting: PointContext
) -> list[str]:
    """Verdict, other bases, what would decide, the place's normal, why apart, and every check.

    *setting* is the one of the outcome's quantity. No sentence where there is no value.
    """
    value = outcome.value
    if value is None:
        return []
    passed = [line for line in outcome.checks if line not in outcome.flags]
    stage = method.stage(outcome.stage)
    held = _read_directly(stage, state, outcome)
    if stage and held:
        seen = [d.seen for d in held.samples if d.seen]
        blanks = [d.seen for d in held.blanks if d.seen]
        reader = reader_of_run(stage, held, setting.lots)
    if stage and held and reader.correction == 1:
        said = result_sentences(reader, value, verdict, seen, blanks, setting, outcome.apart)
        return said + passed
    also = stage.measures.also if stage else ()
    return short_sentences(value, verdict, also, setting) + passed


def notes(method: Method, state: RunState, outcome: Outcome, lots: Lots) -> list[str]:
    """What is said of the value whatever limit it is held against: other bases, why apart, checks.

    No sentence where there is no value.
    """
    value = outcome.value
    if value is None:
        return []
    stage = method.stage(outcome.stage)
    held = _read_directly(stage, state, outcome)
    apart = ""
    if stage and held:
        blanks = [d.seen for d in held.blanks if d.seen]
        reader = reader_of_run(stage, held, lots)
        apart = reader.explain_offset(value, blanks) if outcome.apart is None else outcome.apart
    passed = [line for line in outcome.checks if line not in outcome.flags]
    said = [also_said(value, stage.measures.also if stage else ()), apart, *passed]
    return [line for line in said if line]


def _read_directly(stage: Stage | None, state: RunState, outcome: Outcome) -> StageState | None:
    """The stage's state where its value comes from its own readings, undiluted; else None."""
    held = next((one for one in state.stages if one.id == outcome.stage), None)
    direct = stage and held and held.dilution == 1 and not stage.reference
    return held if direct else None
