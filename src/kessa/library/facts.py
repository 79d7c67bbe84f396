"""What the methods of a programme are chosen by, each document read once in a process."""

from collections.abc import Iterable
from datetime import date
from functools import cache

from kessa.library.models import Lot, MethodVersion
from kessa.platform.models import Programme
from kessa_core.finding import MethodFacts, facts_of
from kessa_core.methods import load, shipped

_known: dict[str, MethodFacts] = {}
"""By the hash of a document, which never changes."""


def facts_alone(programme: Programme) -> list[MethodFacts]:
    """The facts of the newest version of each method in use."""
    hashes = list(MethodVersion.objects.of(programme).newest().values_list("hash", flat=True))
    _read(programme, set(hashes) - _known.keys())
    return [_known[one] for one in hashes]


def facts_in_use(programme: Programme) -> list[tuple[MethodVersion, MethodFacts]]:
    """The newest version of each method in use, with its facts."""
    versions = list(MethodVersion.objects.of(programme).newest().defer("document"))
    _read(programme, {one.hash for one in versions} - _known.keys())
    return [(one, _known[one.hash]) for one in versions]


def _read(programme: Programme, hashes: set[str]) -> None:
    if not hashes:
        return
    new = MethodVersion.objects.of(programme).filter(hash__in=hashes)
    for sha, document in new.values_list("hash", "document"):
        _known[sha] = facts_of(load(document))


@cache
def facts_of_shipped(method_id: str) -> MethodFacts:
    """A shipped method's facts."""
    return facts_of(shipped(method_id))


def reagents_at_hand(programme: Programme, today: date) -> set[str]:
    """Reagents of which a lot is in use that is still good."""
    return {lot.reagent for lot in Lot.objects.of(programme).in_stock() if lot.is_good_on(today)}


def parameters_of(facts: Iterable[MethodFacts]) -> list[tuple[str, str]]:
    """Each parameter that is measured: key and name, by name."""
    found = {stage.parameter: stage.name for one in facts for stage in one.stages}
    return sorted(found.items(), key=lambda one: one[1].lower())
