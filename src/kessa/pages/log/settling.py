"""Which methods would settle a verdict, of those in use here and of those that are shipped."""

from dataclasses import dataclass

from kessa.library.models import MethodVersion
from kessa.library.services import shipped_beside
from kessa.results.models import Result
from kessa.verdicts.services import current_verdicts
from kessa_core.judging.settling import Settling, settled_by

MOST = 3


@dataclass(frozen=True)
class WouldSettle:
    """The quickest methods that would settle it, those in use first, each with the number of the
    version in use, empty where it is only shipped."""

    found: tuple[tuple[Settling, str], ...]
    limit: str


def would_settle(result: Result) -> WouldSettle | None:
    """For a result that is too close to call; None where it is not, or one sample cannot decide."""
    verdict = next(iter(current_verdicts(result)), None)
    value = result.evaluation.value
    if verdict is None or verdict.limit is None or verdict.code != "close" or value is None:
        return None
    limit = verdict.limit.as_core
    versions = MethodVersion.objects.of(result.programme_id).newest()
    in_use = {version.method_id: version for version in versions}
    own = {result.run.version.method_id}
    here = [one.method for key, one in in_use.items() if key not in own]
    others = shipped_beside({*in_use, *own})
    found = (*settled_by(value, limit, here), *settled_by(value, limit, others))[:MOST]
    numbered = tuple(
        (one, in_use[one.method.id].number if one.method.id in in_use else "") for one in found
    )
    return WouldSettle(numbered, f"{limit.name} {limit.bounds_text} {limit.quantity.label}")
