"""Whether limits are those that were judged by, and results lead with their newest verdicts."""

from collections.abc import Iterator

from django.db.models import OuterRef, Subquery

from kessa.platform.models import Programme
from kessa.results.models import Result
from kessa.verdicts.models import JudgedLimit, Verdict
from kessa_core.records import Break, sha


def differing(programme: Programme) -> Iterator[Break]:
    """Limits that are not what their hash says; results that lead with another verdict than the
    newest one, or with another reason for having no figure."""
    for limit in JudgedLimit._base_manager.filter(programme=programme):
        if limit.hash != sha([limit.limit_set, limit.edition, limit.data]):
            yield Break(0, f"limit:{limit.pk} ({limit}) was changed")
        elif limit.data.get("id") != limit.limit_id:
            yield Break(0, f"limit:{limit.pk} ({limit}) is named as another one")
    verdicts = Verdict._base_manager.filter(
        programme=programme, evaluation=OuterRef("current_id"), leads=True
    )
    results = Result._base_manager.filter(programme=programme).annotate(
        leading=Subquery(verdicts.order_by("-round", "pk").values("code")[:1])
    )
    told = results.values_list("pk", "outcome_code", "leading", "current__finish")
    for number, code, leading, finish in told.iterator(chunk_size=2000):
        if code != (leading if leading is not None else finish or ""):
            yield Break(0, f"result:{number} leads with another verdict than its newest one")
