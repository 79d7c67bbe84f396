"""What a person looks for in the library, and whether a method fits it."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import get_args

from kessa_core.finding.facts import MethodFacts, StageFacts
from kessa_core.methods.parts import Exclusion

WATERS: tuple[str, ...] = get_args(Exclusion.model_fields["water"].annotation)
"""Waters that some methods are not for."""


@dataclass(frozen=True)
class Wanted:
    """What is looked for; what is empty or None does not matter.

    words: each stands in the title, kit, parameter or reading type; parameter: its key; principle:
    its words; water: one of WATERS; value: lies in the range, in the method's unit; within_s:
    seconds it may take; harmless: no hazards; stock: names of reagents at hand, else None.
    """

    words: str = ""
    parameter: str = ""
    principle: str = ""
    water: str = ""
    value: float | None = None
    within_s: int | None = None
    harmless: bool = False
    stock: Collection[str] | None = None


def fits(facts: MethodFacts, wanted: Wanted) -> bool:
    """Whether a method is one of those looked for; a value has to lie in the range of a result of
    the parameter that is looked for."""
    measured = [one for one in facts.stages if wanted.parameter in ("", one.parameter)]
    return (
        bool(measured)
        and all(word in facts.text for word in wanted.words.lower().split())
        and wanted.principle in ("", *facts.principles)
        and wanted.water not in facts.not_for
        and (wanted.value is None or any(_reaches(one, wanted.value) for one in measured))
        and (wanted.within_s is None or facts.seconds <= wanted.within_s)
        and not (wanted.harmless and facts.hazards)
        and (wanted.stock is None or all(one in wanted.stock for one in facts.lots))
    )


def _reaches(stage: StageFacts, value: float) -> bool:
    return stage.low is not None and stage.high is not None and stage.low <= value <= stage.high
