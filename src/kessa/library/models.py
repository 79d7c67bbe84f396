"""The methods a programme uses, each version kept as its document, and its lots."""

from collections.abc import Iterable
from datetime import date
from functools import cached_property, lru_cache
from typing import Any

from django.db import models

from kessa.library.case_models import KitCase
from kessa.library.check_models import InstrumentCheck
from kessa.library.draft_models import DraftRevision, MethodDraft, OwnParameter
from kessa.library.queries import InstrumentQuery, LotQuery, MethodVersionQuery
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa_core.methods import Method, load
from kessa_core.quality.stock import Stock
from kessa_core.readings.lots import Lot as CoreLot
from kessa_core.readings.lots import Lots as CoreLots

__all__ = [
    "DraftRevision",
    "FavouriteTest",
    "Instrument",
    "InstrumentCheck",
    "KitCase",
    "Lot",
    "MethodDraft",
    "MethodUse",
    "MethodVersion",
    "OwnParameter",
]


class MethodVersion(models.Model):
    """One version of a method document, as the programme took it up. Never changed.

    own: 0 for the kit's document, else which set of the programme's own choices on that version.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    method_id = models.SlugField(max_length=60)
    version = models.PositiveIntegerField()
    own = models.PositiveIntegerField(default=0)
    hash = models.CharField(max_length=64)
    title = models.CharField(max_length=80)
    document = models.TextField()
    taken_up_at = models.DateTimeField(default=clock.now)

    objects = MethodVersionQuery.as_manager()

    class Meta:
        constraints = [
            *programme_constraints(),
            models.UniqueConstraint(
                fields=["programme", "method_id", "version", "own"], name="one_document_a_number"
            ),
        ]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.title}, version {self.number}"

    @property
    def number(self) -> str:
        """The version, and the set of own choices where it has one: 1, or 1.2."""
        return f"{self.version}.{self.own}" if self.own else str(self.version)

    @cached_property
    def method(self) -> Method:
        """The document, read."""
        return _loaded(self.document)


class Lot(models.Model):
    """A lot of a reagent, strip or standard in use. revision counts corrections of its data.

    table: rows (reading, value) of the leaflet that came with it, where the method needs one.
    drop_ml, drop_sd: this bottle's own drop where it was measured, and its relative sd.
    contains: what the pack held, in *unit*, the reagent's own. keeps_days: how long once opened.
    recovery, recovery_sd: what it finds of a standard, 1 for all of it. content, content_sd: what
    a standard holds, in *content_unit*, that of the stage it is for; prepared: how it was made.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    reagent = models.CharField(max_length=60)
    number = models.CharField(max_length=40)
    expires = models.DateField(null=True, blank=True)
    opened = models.DateField(null=True, blank=True)
    table = models.JSONField(default=list, blank=True)
    drop_ml = models.FloatField(null=True, blank=True)
    drop_sd = models.FloatField(null=True, blank=True)
    contains = models.FloatField(null=True, blank=True)
    unit = models.CharField(max_length=80, blank=True)
    keeps_days = models.PositiveSmallIntegerField(null=True, blank=True)
    storage = models.JSONField(default=list, blank=True)
    recovery = models.FloatField(null=True, blank=True)
    recovery_sd = models.FloatField(null=True, blank=True)
    content = models.FloatField(null=True, blank=True)
    content_unit = models.CharField(max_length=80, blank=True)
    content_sd = models.FloatField(null=True, blank=True)
    prepared = models.CharField(max_length=240, blank=True)
    in_use = models.BooleanField(default=True)
    revision = models.PositiveIntegerField(default=1)

    objects = LotQuery.as_manager()

    class Meta:
        constraints = programme_constraints()
        indexes = [models.Index(fields=["programme", "reagent", "-id"])]

    def __str__(self) -> str:
        return f"{self.reagent}, lot {self.number}"

    @property
    def drop(self) -> tuple[float, ...]:
        """The measured drop, mL and relative sd; empty without one."""
        return pair(self.drop_ml, self.drop_sd)

    @property
    def recovery_percent(self) -> float | None:
        """What it finds of a standard, in percent."""
        return None if self.recovery is None else 100 * self.recovery

    @property
    def content_doubt(self) -> float | None:
        """Of what a standard holds: plus or minus, for 95 %."""
        return 2 * self.content_sd * self.content if self.content and self.content_sd else None

    def as_core(self) -> CoreLot:
        """The lot as readings know it."""
        return CoreLot.noted(
            self.reagent,
            self.number,
            self.table,
            self.drop,
            pair(self.recovery, self.recovery_sd),
            pair(self.content, self.content_sd),
        )

    @property
    def last_day(self) -> date | None:
        """The last day on which it is good."""
        return self.stock(0.0).last_day

    def is_good_on(self, day: date) -> bool:
        """Whether it has neither expired nor stood open for too long."""
        last = self.last_day
        return last is None or last >= day

    def stock(self, one_test: float) -> Stock:
        """What is left of it, where the query counted what tests took (LotQuery.with_use).
        one_test: what one test usually takes."""
        used = getattr(self, "used", 0.0)
        return Stock(
            self.expires, self.opened, self.keeps_days, self.contains, used, one_test, self.unit
        )

    @staticmethod
    def resting_on(method: Method, lots: "Iterable[Lot]") -> "list[Lot]":
        """Of these lots, those that the values of a method rest on: of its tracked reagents, and
        standards that say what they hold."""
        return [lot for lot in lots if lot.reagent in method.tracked or lot.content is not None]

    @staticmethod
    def all_as_core(lots: "Iterable[Lot]") -> CoreLots:
        """These lots as readings know them."""
        return CoreLots(tuple(lot.as_core() for lot in lots))


class Instrument(models.Model):
    """A meter, photometer or reader. revision counts changes of what is noted of it.

    kinds: which instruments that method documents name it can be. check_failed: the last check did.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    name = models.CharField(max_length=60)
    number = models.CharField(max_length=40, blank=True)
    kinds = models.JSONField(default=list)
    checked_on = models.DateField(null=True, blank=True)
    check_due = models.DateField(null=True, blank=True)
    check_failed = models.BooleanField(default=False)
    in_use = models.BooleanField(default=True)
    revision = models.PositiveIntegerField(default=1)

    objects = InstrumentQuery.as_manager()

    class Meta:
        constraints = programme_constraints()

    def __str__(self) -> str:
        return f"{self.name}, no. {self.number}" if self.number else self.name

    @property
    def as_noted(self) -> dict[str, Any]:
        """What a run keeps of it: its name, and the check that held at the time."""
        return {
            "name": self.name,
            "number": self.number,
            "revision": self.revision,
            "checked_on": str(self.checked_on or ""),
            "check_due": str(self.check_due or ""),
        } | ({"check_failed": True} if self.check_failed else {})


class FavouriteTest(models.Model):
    """A method that a person wants at the top of the list of tests."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    person = models.ForeignKey(Person, models.CASCADE)
    method_id = models.SlugField(max_length=60)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(
                fields=["programme", "person", "method_id"], name="one_favourite_a_method"
            )
        ]

    def __str__(self) -> str:
        return f"{self.person}: {self.method_id}"


class MethodUse(models.Model):
    """How often a programme has used a method. A projection of its runs."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    method_id = models.SlugField(max_length=60)
    count = models.PositiveIntegerField(default=0)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["programme", "method_id"], name="one_use_a_method")
        ]

    def __str__(self) -> str:
        return f"{self.method_id}: {self.count}"


def pair(number: float | None, sd: float | None) -> tuple[float, ...]:
    """A measured number and its relative sd; empty where nothing was measured."""
    return () if number is None else (number, sd or 0.0)


@lru_cache(maxsize=256)
def _loaded(document: str) -> Method:
    return load(document)
