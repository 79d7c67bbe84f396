"""Work that continues after the answer: kept in PostgreSQL, done by the worker of demo and serve. A
job is asked for in the transaction of what it follows from, so that neither is lost."""

from collections.abc import Iterable, Sequence
from functools import partial
from typing import Literal

from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from kessa.flows.evaluating import evaluate_lot as evaluate_results_of
from kessa.flows.judging import judge_waters
from kessa.library.models import Lot
from kessa.places.models import Water
from kessa.platform import progress
from kessa.platform.models import Person, Programme
from kessa.platform.progress import Progress

UNDER_WAY = ("todo", "doing")
GIVEN_UP = ("failed", "aborted")
AGAIN = RetryStrategy(max_attempts=4, exponential_wait=5)


@app.task(name="judge_water", retry=AGAIN)
def judge_water(*, programme_id: int, water_id: int, person_id: int | None) -> int:
    """Judge the water's results by the limits in force when each was sampled; how many were judged
    anew. Done twice it changes nothing."""
    water = Water.objects.of(programme_id).select_related("programme").get(pk=water_id)
    by = Person.objects.get(pk=person_id) if person_id else None
    come_to = partial(progress.tell, work_at(water_id))
    return judge_waters(water.programme, [water], by, come_to).judged


@app.task(name="evaluate_lot", retry=AGAIN)
def evaluate_lot(*, programme_id: int, lot_id: int, person_id: int, why: str) -> int:
    """Compute the results of a lot again; how many tests used it. Done twice it changes nothing."""
    lot = Lot.objects.of(programme_id).get(pk=lot_id)
    return evaluate_results_of(lot, Person.objects.get(pk=person_id), why)


@app.periodic(cron="* * * * *")
@app.task(name="take_up_stalled", queueing_lock="take-up-stalled", pass_context=True)
async def take_up_stalled(context: JobContext, timestamp: int) -> int:
    """Have the jobs whose worker is gone done by another one, every minute; how many there were."""
    jobs = context.app.job_manager
    stalled = list(await jobs.get_stalled_jobs())
    for job in stalled:
        await jobs.retry_job(job)
    return len(stalled)


def work_at(water_id: int) -> str:
    """The name under which the judging of a water tells its progress."""
    return f"judge-water-{water_id}"


def ask_to_judge(water: Water, by: Person) -> None:
    """Have a water's results judged again; one such job of a water runs at a time."""
    asked = judge_water.configure(lock=work_at(water.pk))
    asked.defer(programme_id=water.programme_id, water_id=water.pk, person_id=by.pk)


def ask_to_evaluate_lot(lot: Lot, by: Person, why: str) -> None:
    """Have the results of a lot computed again; one such job of a lot runs at a time."""
    asked = evaluate_lot.configure(lock=f"evaluate-lot-{lot.pk}")
    asked.defer(programme_id=lot.programme_id, lot_id=lot.pk, person_id=by.pk, why=why)


def evaluation_of_lot(lot: Lot) -> Literal["", "under-way", "given-up"]:
    """Whether the results of a lot are being computed again, or could not be."""
    jobs = ProcrastinateJob.objects.filter(task_name=evaluate_lot.name, args__lot_id=lot.pk)
    newest = jobs.order_by("-id").values_list("status", flat=True).first()
    if newest in UNDER_WAY:
        return "under-way"
    return "given-up" if newest in GIVEN_UP else ""


def waters_being_judged(programme: Programme) -> set[int]:
    """The waters whose results are being judged again, or will be."""
    return _waters(programme, UNDER_WAY)


def waters_given_up(programme: Programme) -> set[int]:
    """The waters whose results could not be judged again."""
    return _waters(programme, GIVEN_UP)


def _waters(programme: Programme, statuses: Sequence[str]) -> set[int]:
    jobs = ProcrastinateJob.objects.filter(task_name=judge_water.name, status__in=statuses)
    numbers: Iterable[int] = jobs.filter(args__programme_id=programme.pk).values_list(
        "args__water_id", flat=True
    )
    return set(numbers)


def how_far(water_id: int) -> Progress | None:
    """How many of a water's results have been judged again; None before it begins and after."""
    return progress.told(work_at(water_id))
