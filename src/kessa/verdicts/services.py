"""Judging evaluations: verdicts are kept as they were, each with its limit as it stood."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.results.models import Evaluation, Result
from kessa.results.services import Seals, set_outcome
from kessa.verdicts.models import JudgedLimit, Verdict
from kessa.verdicts.queries import VerdictQuery
from kessa_core import VERSION
from kessa_core.judging import Limit, LimitSet, most_serious_verdict, verdicts_on
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
    made = verdicts_on(value, context.limits or context.others)
    return Judgement(made, most_serious_verdict(made), context.usual)


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
    against = [one.limit for one in judgement.verdicts if one.limit]
    limits = judged_limits(evaluation.programme_id, held, against)
    kept = Verdict.objects.of(evaluation.programme_id).newest_rounds([evaluation.pk])
    rows = new_round(evaluation, judgement, limits, kept[evaluation.pk], in_force_at)
    for row in rows:
        row.judged_by = by
    return [seal_of(Verdict.objects.bulk_create(rows))] if rows else []


def new_round(
    evaluation: Evaluation,
    judgement: Judgement,
    limits: Mapping[Limit, JudgedLimit],
    newest: Sequence[Verdict],
    in_force_at: datetime,
) -> list[Verdict]:
    """A judgement as rows, not saved; none where the *newest* round says the same."""
    rows = [
        Verdict(
            programme_id=evaluation.programme_id,
            evaluation=evaluation,
            limit=limits.get(one.limit) if one.limit else None,
            round=newest[0].round + 1 if newest else 1,
            leads=one is judgement.leads,
            code=one.sign,
            reported_code=one.reported_sign,
            in_force_at=in_force_at,
            core_version=VERSION,
            sentences=list(judgement.sentences) if one is judgement.leads else [],
            usual=_usual_data(judgement.usual) if one is judgement.leads else None,
        )
        for one in judgement.verdicts
    ]
    return [] if {one.key for one in rows} == {one.key for one in newest} else rows


def current_verdicts(result: Result) -> list[Verdict]:
    """The newest verdicts on a result's current evaluation, the leading one first."""
    attach_verdicts([result], Verdict.objects.of(result.programme_id))
    return list(result.verdicts)


def attach_verdicts(results: Sequence[Result], among: VerdictQuery | None = None) -> None:
    """Give each result its newest verdicts as .verdicts, in one query for all of them. *among*:
    with what was said and usual; else as lists show them."""
    if not results:
        return
    numbers = [result.current_id for result in results if result.current_id]
    if among is None:
        among = Verdict.objects.of(results[0].programme_id).for_lists()
    found = among.newest_rounds(numbers)
    for result in results:
        result.verdicts = found.get(result.current_id or 0, [])
        for verdict in result.verdicts:
            verdict.evaluation = result.current


def sentences_of(result: Result) -> list[str]:
    """What was said when the result was judged; where it was judged again, what follows from the
    verdict and the limit as it stood. The result has its verdicts attached."""
    if not result.verdicts:
        return []
    leads = result.verdicts[0]
    if leads.sentences:
        return list(leads.sentences)
    core = leads.as_core
    return [line for line in (core.sentence, core.as_printed, *result.evaluation.notes) if line]


def verdict_by(limits: Iterable[Limit], value: Value) -> CoreVerdict:
    """The verdict that leads on a value, by these limits."""
    context = PointContext(tuple(limits))
    return judge_value(value, context.of(value.quantity)).leads


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


def judged_limits(
    programme_id: int, held: LimitSet | None, limits: Iterable[Limit]
) -> dict[Limit, JudgedLimit]:
    """Limits of a set as rows, as they stand in its edition; each is kept once a programme, one
    that a formula computes once for each figure."""
    if held is None:
        return {}
    data = {limit: limit.model_dump(mode="json", exclude_defaults=True) for limit in limits}
    hashes = {sha([held.id, held.edition, one]): limit for limit, one in data.items()}
    JudgedLimit.objects.bulk_create(
        [
            JudgedLimit(
                programme_id=programme_id,
                limit_set=held.id,
                edition=held.edition,
                limit_id=limit.id,
                data=data[limit],
                hash=hashed,
            )
            for hashed, limit in hashes.items()
        ],
        ignore_conflicts=True,
    )
    kept = JudgedLimit.objects.of(programme_id).filter(hash__in=hashes)
    return {hashes[one.hash]: one for one in kept}
