"""Limits that depend on what else was measured: judging again when it arrives or changes."""

from collections.abc import Iterable

from django.db import transaction

from kessa.places.services import set_at
from kessa.platform.audit import record
from kessa.platform.models import Person
from kessa.results.models import Result
from kessa.results.projections import Series, series_of
from kessa.results.services import Seals, reopen
from kessa.verdicts.measured import for_sample
from kessa.verdicts.services import judge_value, keep_verdicts, note_outcome
from kessa.visits.models import Sample
from kessa_core.derived.deriving import OLDEST, SAME_SAMPLE
from kessa_core.judging.context import PointContext
from kessa_core.judging.formulas import DEPENDING

WHY = "compared again with what was measured beside it"


@transaction.atomic
def judge_companions(
    sample: Sample, parameters: Iterable[str], by: Person | None
) -> set[Series | None]:
    """One of these *parameters* was measured of a sample: judge again what was sampled at its point
    about then and has a limit that depends on one. The series of what has another verdict."""
    if DEPENDING.isdisjoint(parameters):
        return set()
    held = set_at(sample.point, sample.sampled_at)
    limits = [limit for limit in held.limits if limit.formula] if held else []
    if not limits:
        return set()
    about = (sample.sampled_at - SAME_SAMPLE, sample.sampled_at + OLDEST)
    results = Result.objects.of(sample.programme_id).at(sample.point).counting()
    named = {limit.parameter for limit in limits}
    beside = results.filter(parameter__in=named, sampled_at__range=about)
    touched: set[Series | None] = set()
    seals: Seals = []
    for result in beside.select_related("current", "run__sample__point__water"):
        if kept := _judge(result, by):
            touched.add(series_of(result))
            seals += kept
    if seals:
        said = {"judged": len(touched), "why": WHY, "seals": seals}
        record(sample.programme, by, "results.judged-beside", sample.programme, **said)
    return touched


def _judge(result: Result, by: Person | None) -> Seals:
    value, own = result.evaluation.value, result.run.sample
    held = set_at(result.point, result.sampled_at)
    if value is None or held is None:
        return []
    limits = for_sample(held.of_all([value.quantity]), own)
    judgement = judge_value(value, PointContext(limits).of(value.quantity))
    kept = keep_verdicts(result.evaluation, judgement, held, result.sampled_at, by)
    if not kept:
        return []
    if judgement.code != result.outcome_code and result.status == Result.Status.REVIEWED:
        reopen(result, by, WHY)
    note_outcome(result, judgement)
    return kept
