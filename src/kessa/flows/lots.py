"""Correcting what was noted of a lot; its results are computed again."""

from typing import Any

from django.db import transaction

from kessa.flows.jobs import ask_to_evaluate_lot
from kessa.library import equipment
from kessa.library.models import Lot
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Person

RESTS_ON = {"number", "table", "drop_ml", "drop_sd"}
"""What results carry of a lot, or are computed with."""


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
