"""What is in stock, what runs out, and which instruments are due."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, timedelta

from django.db.models import Q
from django.urls import reverse
from django.utils import timezone

from kessa.library.facts import facts_alone
from kessa.library.models import Instrument, Lot
from kessa.library.queries import LotQuery
from kessa.platform import clock
from kessa.platform.days import date_text
from kessa.platform.models import Programme
from kessa_core.finding import MethodFacts
from kessa_core.finding.materials import Material, combined
from kessa_core.quality.stock import SOON_DAYS, Stock, StockWarning


@dataclass(frozen=True)
class StockLine:
    """A lot, what is left of it, and what to say of it; nothing where it is out of use."""

    lot: Lot
    stock: Stock
    warnings: tuple[StockWarning, ...]


@dataclass(frozen=True)
class Due:
    """Something that runs out or is due, with its page. level: now, or soon."""

    name: str
    address: str
    words: str
    level: str


def materials_in_use(programme: Programme) -> dict[str, Material]:
    """Every reagent, strip and standard of the methods in use, by name."""
    return combined(one for facts in facts_alone(programme) for one in facts.materials)


def stock_lines(programme: Programme, facts: Iterable[MethodFacts]) -> list[StockLine]:
    """Every lot by reagent, those in use first. *facts*: of the methods in use."""
    return _lines(Lot.objects.of(programme), facts)


def _lines(kept: LotQuery, facts: Iterable[MethodFacts]) -> list[StockLine]:
    materials = combined(one for held in facts for one in held.materials)
    lots = kept.with_use().order_by("reagent", "-in_use", "-opened", "-pk")
    today = timezone.localdate(clock.now())
    return [_line(lot, materials.get(lot.reagent, Material("")), today) for lot in lots]


def _line(lot: Lot, material: Material, today: date) -> StockLine:
    stock = lot.stock(material.one_test)
    return StockLine(lot, stock, stock.warnings(today) if lot.in_use else ())


def running_out(programme: Programme) -> list[Due]:
    """Lots that are bad or run out, and instruments whose check failed or is due; what is wrong now
    first."""
    lines = _lines(Lot.objects.of(programme).filter(in_use=True), facts_alone(programme))
    found = [
        Due(f"{line.lot.reagent} {line.lot.number}", _page("lot", programme, line.lot.pk),
            line.warnings[0].words, line.warnings[0].level)
        for line in lines
        if line.warnings
    ]  # fmt: skip
    found += _instruments(programme, timezone.localdate(clock.now()))
    return sorted(found, key=lambda one: one.level != "now")


def _instruments(programme: Programme, today: date) -> list[Due]:
    soon = Q(check_due__lte=today + timedelta(days=SOON_DAYS)) | Q(check_failed=True)
    held = Instrument.objects.of(programme).filter(soon, in_use=True).order_by("check_due", "pk")
    found = []
    for one in held:
        overdue = one.check_due is not None and one.check_due < today
        day = date_text(one.check_due) if one.check_due else ""
        words = f"check was due on {day}" if overdue else f"check due on {day}"
        if one.check_failed:
            words = "failed its last check"
        level = "now" if overdue or one.check_failed else "soon"
        found.append(Due(one.name, _page("instrument", programme, one.pk), words, level))
    return found


def _page(name: str, programme: Programme, number: int) -> str:
    return reverse(name, args=[programme.slug, number])
