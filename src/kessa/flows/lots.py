"""Correcting what was noted of a lot, or measuring a standard with it; its results are computed
again."""

from datetime import datetime
from typing import Any

from django.db import transaction

from kessa.flows.jobs import ask_to_evaluate_lot
from kessa.library import equipment
from kessa.library.models import Lot
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Person
from kessa.runs.models import StandardCheck
from kessa.runs.standards import note_check
from kessa_core.runs.standards import Recovery

COMPUTED_WITH = {"table", "drop_ml", "drop_sd", "recovery", "recovery_sd", "content", "content_sd"}
"""What results are computed with."""
RESTS_ON = {"number"} | COMPUTED_WITH
"""What results carry of a lot, or are computed with."""


def asks_before(lot: Lot, described: dict[str, Any]) -> bool:
    """Whether recording this changes what results are computed with, so that it is shown first."""
    return any(
        getattr(lot, name) != value for name, value in described.items() if name in COMPUTED_WITH
    )


@transaction.atomic
def correct_lot(lot: Lot, by: Person, why: str, **described: Any) -> None:
    """Something that was noted of a lot was wrong; results that rest on it are computed again.

    Raises ActionNotAllowed where nothing differs.
    """
    before = {name: getattr(lot, name) for name in RESTS_ON}
    if not equipment.correct_lot(lot, by, why, **described):
        raise ActionNotAllowed("Nothing was changed.")
    if any(getattr(lot, name) != was for name, was in before.items()):
        ask_to_evaluate_lot(lot, by, why)


@transaction.atomic
def measure_standard(
    lot: Lot, by: Person, method_id: str, recovery: Recovery, at: datetime, **noted: Any
) -> StandardCheck:
    """A standard was measured with a lot outside of a test. Tests since then carry a flag while it
    is the last one and failed, and lose it when one passes: they are computed again.

    noted: standard, a lot; instrument.
    """
    made = note_check(lot, by, method_id, recovery, at, **noted)
    ask_to_evaluate_lot(lot, by, "standard passed" if made.passes else "standard failed")
    return made
