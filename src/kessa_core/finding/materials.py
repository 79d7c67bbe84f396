"""Everything of which a lot can be recorded: what the methods say of each reagent and standard."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from kessa_core.methods import Method
from kessa_core.methods.parts import Reagent
from kessa_core.runs.consumption import used_by_one_test

USUAL_DROP_ML = 0.05
"""The drop of a dropper bottle of which a kit says nothing."""


@dataclass(frozen=True)
class Material:
    """A reagent, strip or standard, as the methods that use it see it.

    unit: its own. one_test: what one test takes at most, in that unit. drop_ml: its drop, by the
    kit. counted: values are counted in its drops. rests: values rest on its lot. holds: of a
    standard, the unit and basis in which it says what it holds.
    """

    name: str
    unit: str = ""
    one_test: float = 0.0
    drop_ml: float = USUAL_DROP_ML
    counted: bool = False
    rests: bool = False
    holds: str = ""


def materials_of(methods: Iterable[Method]) -> dict[str, Material]:
    """Every material of these methods, by name."""
    return combined(one for method in methods for one in _all_of(method))


def combined(materials: Iterable[Material]) -> dict[str, Material]:
    """By name, what several methods say of one joined."""
    found: dict[str, Material] = {}
    for one in materials:
        found[one.name] = _joined(found.get(one.name), one)
    return found


def _all_of(method: Method) -> Iterator[Material]:
    yield from (_of(reagent, method) for reagent in method.reagents)
    for stage in method.stages:
        if stage.standard:
            yield Material(stage.standard.name, holds=stage.measures.quantity.label)


def _of(reagent: Reagent, method: Method) -> Material:
    readers = [stage.reader() for stage in method.stages]
    drops = [r.kit_drop_ml for r in readers if r.dispenses == reagent.name and r.kit_drop_ml]
    rests = {reader.reagent for reader in readers}
    return Material(
        reagent.name,
        reagent.unit,
        used_by_one_test(reagent, method),
        drops[0] if drops else USUAL_DROP_ML,
        any(
            "drop-size" in [i.of for i in r.influences if i.whose == reagent.name] for r in readers
        ),
        reagent.name in rests or ("" in rests and method.tracked == (reagent.name,)),
    )


def _joined(before: Material | None, now: Material) -> Material:
    if before is None:
        return now
    return replace(
        before,
        unit=before.unit or now.unit,
        one_test=max(before.one_test, now.one_test),
        counted=before.counted or now.counted,
        rests=before.rests or now.rests,
        holds=before.holds or now.holds,
    )
