"""Another limit set at a water."""

from datetime import datetime

from django.db import transaction

from kessa.flows.jobs import ask_to_judge
from kessa.places.models import Water
from kessa.places.services import attach_limits
from kessa.platform.models import Person


@transaction.atomic
def change_limits(
    water: Water, by: Person, limit_set: str, valid_from: datetime | None = None
) -> bool:
    """Another limit set applies at the water from *valid_from* on (now, where it is not given).

    Whether what was sampled since is going to be judged again: not where that set applies already,
    nor where it applies from now on.
    """
    if not attach_limits(water, by, limit_set, valid_from) or valid_from is None:
        return False
    ask_to_judge(water, by)
    return True
