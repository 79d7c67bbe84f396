"""What a run used up of each reagent, and what one test of a method takes."""

from kessa_core.methods import Method
from kessa_core.methods.parts import Reagent
from kessa_core.methods.stage import Stage
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.state import Determination, RunState, StageState


def used_up(method: Method, state: RunState) -> dict[str, float]:
    """What a run has used of each reagent so far, by its name, in the reagent's own unit.

    A titrant is what was counted or read of it; everything else its amount for each determination
    that was begun, rejected ones among them. Check drops are drops too.
    """
    found = {one.name: _used(one, method, state) for one in method.reagents}
    return {name: amount for name, amount in found.items() if amount}


def used_by_one_test(reagent: Reagent, method: Method) -> float:
    """What one test usually takes of a reagent, in its unit: its amount for each determination that
    the method asks for, blank and standard among them."""
    amount = float(reagent.amount)
    stages = [stage for stage in method.stages if uses(reagent, stage, method)]
    if reagent.per == "preparation":
        return amount * max(len(stages), 1)
    roles = (
        role for stage in stages for role in (*stage.roles, *["first"] * stage.repeats.least)
    )  # fmt: skip
    return amount * max(sum(reagent.is_for(role) for role in roles), 1)


def uses(reagent: Reagent, stage: Stage, method: Method) -> bool:
    """Whether the determinations of a stage use a reagent up: those that it names, else the first
    stage's; in one flask a titrant belongs to all of them."""
    if reagent.stages:
        return stage.id in reagent.stages
    return stage.id == method.stages[0].id or stage.reader().dispenses == reagent.name


def _used(reagent: Reagent, method: Method, state: RunState) -> float:
    return sum(
        _in_stage(reagent, stage, held, _before(at, method, state))
        for at, (stage, held) in enumerate(zip(method.stages, state.stages, strict=True))
        if uses(reagent, stage, method)
    )


def _before(at: int, method: Method, state: RunState) -> StageState | None:
    """The stage in whose flask this one goes on."""
    return state.stages[at - 1] if method.stages[at].continues else None


def _in_stage(reagent: Reagent, stage: Stage, held: StageState, before: StageState | None) -> float:
    begun = [d for d in held.determinations if _was_begun(d) and reagent.is_for(d.role)]
    if reagent.per == "preparation":
        return float(reagent.amount) if begun else 0.0
    reader = stage.reader()
    if reader.dispenses != reagent.name:
        return float(reagent.amount) * len(begun)
    first = {(d.role, d.attempt): d for d in before.determinations} if before else {}
    return sum(
        max(_dispensed(reader, d) - _dispensed(reader, first.get((d.role, d.attempt))), 0.0)
        for d in begun
    )


def _dispensed(reader: ReadingType, d: Determination | None) -> float:
    """What was dispensed from the zero of the flask on."""
    return reader.dispensed(d.seen, d.count + d.check_drops) if d else 0.0


def _was_begun(d: Determination) -> bool:
    return bool(d.ended or d.closed or d.rejected or d.count or d.places)
