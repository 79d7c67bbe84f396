"""Judging evaluations: verdicts are kept as they were, each with its limit as it stood."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.results.models import Evaluation, Result
from kessa.results.services import Seals, set_outcome
from kessa.verdicts.models import JudgedLimit, Verdict
from kessa_core import VERSION
from kessa_core.judging import Limit, LimitSet, judge, leading
from kessa_core.judging import Verdict as CoreVerdict
from kessa_core.judging.context import PointContext
from kessa_core.quantities import Value
from kessa_core.records import sha
from kessa_core.trends.usual import Usual


@dataclass(frozen=True)
class Judgement:
    """The verdicts on one value, the one that leads among them; what was said and usual then."""

    verdicts: tuple[CoreVerdict, ...]
    leads: CoreVerdict
    usual: Usual | None = None
    sentences: tuple[str, ...] = ()

    @property
    def code(self) -> str:
        return self.leads.sign


def judge_value(value: Value, context: PointContext) -> Judgement:
    """*value* against every limit of its quantity in *context*; where none can be applied, why."""
    made = tuple(judge(value, limit) for limit in context.limits or context.others)
    leads = leading(made)
    return Judgement(made or (leads,), leads, context.usual)


def keep_verdicts(
    evaluation: Evaluation,
    judgement: Judgement,
    held: LimitSet | None,
    in_force_at: datetime,
    by: Person | None = None,
) -> Seals:
    """Insert the verdicts as a round of their own; what the audit seals of them.

    *held*: the set that the limits are from. Nothing where the newest round says the same.
    """
    limits = _judged_limits(evaluation.programme_id, judgement, held)
    before = list(Verdict.objects.on(evaluation))
    newest = [one for one in before if one.round == before[0].round]
    rows = [
        Verdict(
            programme_id=evaluation.programme_id,
            evaluation=evaluation,
            limit=limits.get(one.limit.id) if one.limit else None,
            round=before[0].round + 1 if before else 1,
            leads=one is judgement.leads,
            code=one.sign,
            reported_code=one.reported_sign,
            in_force_at=in_force_at,
            judged_by=by,
            core_version=VERSION,
            sentences=list(judgement.sentences) if one is judgement.leads else [],
            usual=_usual_data(judgement.usual) if one is judgement.leads else None,
        )
        for one in judgement.verdicts
    ]
    if before and {one.key for one in rows} == {one.key for one in newest}:
        return []
    made = Verdict.objects.bulk_create(rows)
    return [seal_of(made)]


def standing_verdicts(result: Result) -> list[Verdict]:
    """The newest verdicts on a result's current evaluation, the leads one first."""
    found = Verdict.objects.of(result.programme_id).standing_of([result])
    return list(found.get(result.pk, []))


def attach_verdicts(results: Sequence[Result]) -> None:
    """Give each result its newest verdicts as .verdicts, in one query for all of them."""
    if not results:
        return
    found = Verdict.objects.of(results[0].programme_id).standing_of(results)
    for result in results:
        result.verdicts = found.get(result.pk, [])


def note_outcome(result: Result, judgement: Judgement | None) -> None:
    """The verdict that leads, or why there is no figure, for the pages that list results."""
    finish = result.current.finish if result.current else ""
    set_outcome(result, judgement.code if judgement else finish)


def _usual_data(usual: Usual | None) -> dict[str, Any] | None:
    if usual is None:
        return None
    return {
        "count": usual.count,
        "median": usual.median,
        "low": usual.band.low,
        "high": usual.band.high,
    }


def _judged_limits(
    programme_id: int, judgement: Judgement, held: LimitSet | None
) -> dict[str, JudgedLimit]:
    """The limits of a judgement as rows, by their id; each is kept once a programme."""
    limits = [one.limit for one in judgement.verdicts if one.limit]
    if held is None or not limits:
        return {}
    return {limit.id: judged_limit(programme_id, held, limit) for limit in limits}


def judged_limit(programme_id: int, held: LimitSet, limit: Limit) -> JudgedLimit:
    """The row of a limit as it stands in this edition of its set."""
    data = limit.model_dump(mode="json")
    key = sha([held.id, held.edition, data])
    found, _ = JudgedLimit.objects.get_or_create(
        programme_id=programme_id,
        hash=key,
        defaults={
            "limit_set": held.id,
            "edition": held.edition,
            "limit_id": limit.id,
            "data": data,
        },
    )
    return found
