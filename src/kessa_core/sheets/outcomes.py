"""The sentences of an outcome, as the sheet says them where it can and the server everywhere."""

from kessa_core.judging import Verdict
from kessa_core.methods import Method
from kessa_core.runs import Outcome, RunState
from kessa_core.runs.conclude import sized_for
from kessa_core.sheets.rows import Setting, briefly, told


def sentences(
    method: Method, state: RunState, outcome: Outcome, verdict: Verdict, setting: Setting
) -> list[str]:
    """Verdict, other bases, what would decide, the place's normal, why apart, and every check.

    *setting* is the one of the outcome's quantity. No sentence where there is no value.
    """
    value = outcome.value
    if value is None:
        return []
    passed = [line for line in outcome.checks if line not in outcome.flags]
    stage = method.stage(outcome.stage)
    held = next((one for one in state.stages if one.id == outcome.stage), None)
    if stage and held and held.dilution == 1 and not stage.reference:
        seen = [d.seen for d in held.samples if d.seen]
        blanks = [d.seen for d in held.blanks if d.seen]
        reader = sized_for(stage, held, setting.lots)
        return told(reader, value, verdict, seen, blanks, setting, outcome.apart) + passed
    also = stage.measures.also if stage else ()
    return briefly(value, verdict, also, setting) + passed
