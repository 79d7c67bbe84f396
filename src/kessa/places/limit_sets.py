"""Finding limit sets, shipped and own, and writing own targets for a water."""

from collections.abc import Iterable
from dataclasses import dataclass

from django.db import transaction

from kessa.places.models import OwnLimitSet, Water
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.locks import lock_until_commit
from kessa.platform.models import Person, Programme
from kessa_core.drafts.problems import text_of
from kessa_core.judging import LimitSet, limit_set, limit_sets
from kessa_core.judging.limit_sets import load_limits
from kessa_core.judging.limits import Limit
from kessa_core.quantities import Quantity

OWN = "own-"
"""How the keys of own targets begin, in a set."""


def find_set(programme_id: int, key: str) -> LimitSet:
    """The limit set with this key: a shipped one, or one of the programme. Raises UnknownName."""
    if key in limit_sets():
        return limit_sets()[key]
    return find_sets(programme_id, [key])[key]


def find_sets(programme_id: int, keys: Iterable[str]) -> dict[str, LimitSet]:
    """The limit sets with these keys, in one query. Raises UnknownName."""
    wanted = {key for key in keys if key}
    own = OwnLimitSet.objects.of(programme_id).filter(set_id__in=wanted - limit_sets().keys())
    written = {one.set_id: one.as_core for one in own}
    return {key: written.get(key) or limit_set(key) for key in wanted}


def sets_known(programme: Programme) -> list[LimitSet]:
    """Every shipped set, and the newest edition of each of the programme's own, by title."""
    own: dict[str, LimitSet] = {}
    for one in OwnLimitSet.objects.of(programme).exclude(family="").order_by("pk"):
        own[one.family] = one.as_core
    known = [*limit_sets().values(), *own.values()]
    return sorted(known, key=lambda held: held.title)


def misfit(water: Water, held: LimitSet | None) -> str:
    """Why a set is not for this water, as one sentence; nothing where it is, or nobody has said."""
    bar = water.facts.get("pressure")
    if held is None or not bar or held.is_for_pressure(bar):
        return ""
    return f"{held.title} is for boilers {held.pressures}; {water.name} works at {bar:g} bar."


@dataclass(frozen=True)
class Target:
    """A target band that somebody sets for a quantity. least, most: figures, empty for none;
    source: where it comes from."""

    quantity: Quantity
    least: str
    most: str
    source: str = ""

    def as_limit(self) -> Limit:
        """The target as a limit. Raises ValidationError where its figures do not fit together."""
        q = self.quantity
        return Limit.model_validate(
            {
                "id": key_of(q),
                "name": "target",
                "parameter": q.parameter,
                "form": q.form,
                "basis": q.basis,
                "unit": q.unit,
                "min": self.least or None,
                "max": self.most or None,
                "tier": "treatment target",
                "statistic": "each sample",
                "document": self.source or None,
                "within": "On target.",
                "beyond": "Off target.",
                "above": "Above your target.",
                "below": "Below your target.",
            }
        )


def key_of(q: Quantity) -> str:
    """The key of an own target for a quantity."""
    return f"{OWN}{q.parameter}-{q.form}"[:60]


def targets_of(held: LimitSet | None) -> dict[str, Limit]:
    """The own targets in a set, by their key."""
    return {one.id: one for one in held.limits if one.id.startswith(OWN)} if held else {}


def others_of(held: LimitSet | None) -> list[Limit]:
    """The limits of a set that are no own targets."""
    return [one for one in held.limits if not one.id.startswith(OWN)] if held else []


@transaction.atomic
def write_targets(
    water: Water, by: Person | None, held: LimitSet | None, targets: Iterable[Target]
) -> OwnLimitSet:
    """A new set for the water: these targets, beside the limits of the set that *held* until now.
    It is not attached yet. Raises InvalidDocument."""
    lock_until_commit(f"own limits {water.programme_id}")
    number = OwnLimitSet.objects.of(water.programme_id).count() + 1
    limits = [*others_of(held), *(one.as_limit() for one in targets)]
    key = f"targets-{water.pk}-{number}"
    said = {
        "id": key,
        "edition": str(number),
        "title": f"Targets for {water.name}"[:80],
        "note": "Set by your programme. Local rules and the supplier decide.",
        "limits": [one.model_dump(mode="json", exclude_defaults=True) for one in limits],
    }
    document = text_of(said)
    load_limits(document)
    made = OwnLimitSet.objects.create(
        programme_id=water.programme_id, set_id=key, document=document, made_by=by
    )
    record(
        water.programme,
        by,
        "limits.written",
        made,
        name=made.as_core.title,
        seals=[seal_of([made])],
    )
    return made
