"""Which lots a run is done with, and what it took of them."""

from dataclasses import dataclass

from django.db import transaction
from django.utils import timezone

from kessa.library.models import Lot
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person
from kessa.runs.models import LotUse, Run, RunLot
from kessa_core.quality.stock import StockWarning
from kessa_core.runs import RunState
from kessa_core.runs.consumption import used_by_one_test, used_up

ENDED = "This test has ended. You cannot change its lots."


@dataclass(frozen=True)
class LotChoice:
    """The lot of one reagent that a run is done with, and those that it could be. tracked: the
    values rest on it."""

    reagent: str
    used: Lot | None
    options: list[Lot]
    warnings: tuple[StockWarning, ...]
    tracked: bool

    @property
    def numbers(self) -> list[str]:
        """The numbers of those that it could be, each once."""
        return list(dict.fromkeys(lot.number for lot in self.options))


def lot_choices(run: Run) -> list[LotChoice]:
    """What can be chosen for a run, by reagent, those that values rest on first."""
    method = run.method
    lots = Lot.objects.of(run.programme_id).filter(reagent__in=method.materials)
    at_hand = list(lots.in_stock().with_use())
    chosen = {lot.reagent: lot for lot in run.lots}
    usual = {one.name: used_by_one_test(one, method) for one in method.reagents}
    today = timezone.localdate(clock.now())
    made = []
    for name in sorted(method.materials, key=lambda one: one not in method.tracked):
        used = chosen.get(name)
        options = [lot for lot in at_hand if lot.reagent == name]
        counted = next((lot for lot in options if used and lot.pk == used.pk), used)
        stock = counted.stock(usual.get(name, 0.0)) if counted else None
        warnings = stock.warnings(today) if stock else ()
        made.append(LotChoice(name, counted, options, warnings, name in method.tracked))
    return made


def find_lot(run: Run, reagent: str, number: str) -> Lot | None:
    """The lot in use of a reagent with the number that was typed or scanned, whatever its spaces
    and capitals; the newest where several have it."""
    wanted = _plain(number)
    lots = Lot.objects.of(run.programme_id).filter(reagent=reagent, in_use=True)
    return next((lot for lot in lots.order_by("-id") if _plain(lot.number) == wanted), None)


def _plain(number: str) -> str:
    return "".join(number.split()).casefold()


@transaction.atomic
def choose_lot(run: Run, person: Person, lot: Lot) -> None:
    """This run is done with *lot*.

    Raises ActionNotAllowed where the run has ended, or its method does not use the reagent.
    """
    held = Run.objects.of(run.programme_id).select_for_update(of=("self",)).get(pk=run.pk)
    if held.finish:
        raise ActionNotAllowed(ENDED)
    if lot.reagent not in run.method.materials:
        raise ActionNotAllowed(f"This method does not use {lot.reagent}.")
    if lot.pk in {one.pk for one in held.lots}:
        return
    made = RunLot.objects.create(
        programme_id=run.programme_id, run=run, lot=lot, by=person, at=clock.now()
    )
    record(run.programme, person, "run.lot", run, name=str(lot), seals=[seal_of([made])])


def count_use(run: Run, state: RunState) -> None:
    """Keep what an ended run took of each of its lots; nothing while it goes on."""
    uses = uses_of(run, state)
    kept = {use.lot_id: use.amount for use in LotUse.objects.of(run.programme_id).filter(run=run)}
    if kept == {use.lot_id: use.amount for use in uses}:
        return
    LotUse.objects.of(run.programme_id).filter(run=run).delete()
    LotUse.objects.bulk_create(uses)


def uses_of(run: Run, state: RunState) -> list[LotUse]:
    """What an ended run took of each of its lots, not saved; nothing while it goes on."""
    amounts = used_up(run.method, state) if state.finish else {}
    return [
        LotUse(programme_id=run.programme_id, run=run, lot=lot, amount=amounts[lot.reagent])
        for lot in run.lots
        if lot.reagent in amounts
    ]
