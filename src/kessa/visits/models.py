"""Visits: what happened, as events; samples and tests asked for, as projections of them."""

from datetime import datetime

from django.contrib.postgres.indexes import GinIndex, OpClass
from django.db import models
from django.db.models import Q
from django.db.models.functions import Upper

from kessa.library.models import KitCase
from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.days import day_text
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa.visits.conditions import said_of
from kessa.visits.event_models import WaterEvent
from kessa.visits.queries import SampleQuery, TestAskedQuery, VisitEventQuery, VisitQuery
from kessa.visits.set_models import CalendarFeed, TestSet

__all__ = [
    "BenchPlan",
    "CalendarFeed",
    "Sample",
    "TestAsked",
    "TestSet",
    "Visit",
    "VisitEvent",
    "WaterEvent",
]


class Visit(models.Model):
    """One going to one or several points. set, due_on: of which set, and for which of its days.
    lead: who goes, where that is not who made it; companion: who goes along; case: what is taken.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    made_by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    begun_at = models.DateTimeField()
    set = models.ForeignKey(TestSet, models.PROTECT, null=True, related_name="visits")
    due_on = models.DateField(null=True)
    lead = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    companion = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    case = models.ForeignKey(KitCase, models.PROTECT, null=True, related_name="+")

    objects = VisitQuery.as_manager()

    class Meta:
        constraints = programme_constraints("set", "case")
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"Visit of {self.begun_at:%d %B %Y}"

    @property
    def people(self) -> str:
        """Who goes: "Rowan with Wren"."""
        who = str(self.lead or self.made_by)
        return f"{who} with {self.companion}" if self.companion else who


class Sample(models.Model):
    """What was taken at a point at a time, with its field conditions; or that nothing was, and why.
    noted: what is asked by the kind of water (kessa.visits.conditions).

    A projection of its visit's events (kessa.visits.projection).
    """

    class Outcome(models.TextChoices):
        OPEN = "open", "not sampled yet"
        TAKEN = "taken", "sampled"
        NOT_TAKEN = "not-taken", "not sampled"
        CANCELLED = "cancelled", "cancelled"

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    visit = models.ForeignKey(Visit, models.PROTECT, related_name="samples")
    point = models.ForeignKey(Point, models.PROTECT, related_name="samples", db_index=False)
    outcome = models.CharField(max_length=10, choices=Outcome.choices, default=Outcome.OPEN)
    reason = models.CharField(max_length=240, blank=True)
    safe = models.BooleanField(default=False)
    context_at = models.DateTimeField(null=True)
    weather_now = models.CharField(max_length=40, blank=True)
    weather_before = models.CharField(max_length=40, blank=True)
    water_c = models.DecimalField(max_digits=4, decimal_places=1, null=True)
    air_c = models.DecimalField(max_digits=4, decimal_places=1, null=True)
    seen = models.JSONField(default=list)
    note = models.CharField(max_length=500, blank=True)
    noted = models.JSONField(default=dict)
    taken_at = models.DateTimeField(null=True)
    depth_cm = models.PositiveSmallIntegerField(null=True)
    zone = models.CharField(max_length=40, blank=True)
    precision = models.CharField(max_length=10, default="minute")
    taken_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    words = models.CharField(max_length=900, blank=True)
    """Note, reason and weather together, for the search."""

    objects = SampleQuery.as_manager()

    class Meta:
        constraints = programme_constraints("visit", "point")
        indexes = [
            models.Index(fields=["point", "-taken_at"]),
            models.Index(fields=["programme", "-taken_at"], name="visits_sample_taken"),
            models.Index(
                fields=["programme"], name="visits_sample_open", condition=Q(outcome="open")
            ),
            models.Index(
                fields=["programme", "-taken_at"],
                name="visits_sample_not_taken",
                condition=Q(outcome="not-taken"),
            ),
            GinIndex(OpClass(Upper("words"), "gin_trgm_ops"), name="visits_sample_words"),
        ]

    def __str__(self) -> str:
        return f"Sample at {self.point_id}"

    @property
    def known_at(self) -> datetime:
        """When it was taken; now, where that is still to come."""
        return self.taken_at or clock.now()

    @property
    def described(self) -> str:
        """ "Sample of 11 November 2026, Beck, at the ford"."""
        day = day_text(self.taken_at or self.visit.begun_at)
        return f"Sample of {day}, {self.point}"

    @property
    def sampled_at(self) -> datetime:
        """When it was taken. Raises ValueError for one that has not been."""
        if self.taken_at is None:
            raise ValueError(f"{self} has not been taken")
        return self.taken_at

    @property
    def has_others(self) -> bool:
        """Whether its visit has other samples."""
        others = Sample.objects.of(self.programme_id).filter(visit=self.visit_id)
        return others.exclude(pk=self.pk).exists()

    @property
    def conditions(self) -> list[tuple[str, str]]:
        """What was noted by the kind of water, with its labels."""
        return said_of(self.noted)

    @property
    def method_id(self) -> str:
        """The method of the first test that is asked of it."""
        return next((test.method_id for test in self.tests.all() if test.state != "cancelled"), "")

    @property
    def next_step(self) -> str:
        """The name of the page where this sample continues."""
        if not self.safe:
            return "safety"
        return "take-sample" if self.context_at else "context"

    @property
    def weather(self) -> str:
        """The weather in a few words: "6 °C, rain before"."""
        parts = []
        if self.water_c is not None:
            parts.append(f"water {self.water_c:g} °C")
        if self.weather_before and self.weather_before != "dry":
            parts.append(f"{self.weather_before} in the last 24 h")
        elif self.weather_now:
            parts.append(self.weather_now)
        return ", ".join(parts)


class TestAsked(models.Model):
    """One test that is asked of a sample, by its method, and how far it is. A projection."""

    class State(models.TextChoices):
        ASKED = "asked", "asked for"
        RUNNING = "running", "under way"
        DONE = "done", "done"
        CANCELLED = "cancelled", "cancelled"

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    sample = models.ForeignKey(Sample, models.PROTECT, related_name="tests")
    method_id = models.SlugField(max_length=60)
    state = models.CharField(max_length=10, choices=State.choices, default=State.ASKED)

    objects = TestAskedQuery.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = programme_constraints("sample")

    def __str__(self) -> str:
        return f"{self.method_id}, {self.state}"


class BenchPlan(models.Model):
    """The last plan of a visit's tests, which the next one stays near to. made_from: a code of what
    was done and asked when it was made; it can be made anew at any time. people: who share the
    work. delayed: the runs that may be late, so that the others are not."""

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    visit = models.OneToOneField(Visit, models.PROTECT, related_name="bench_plan")
    made_from = models.CharField(max_length=64)
    made_at = models.DateTimeField()
    plan = models.JSONField()
    people = models.PositiveSmallIntegerField(default=1)
    delayed = models.JSONField(default=list)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = programme_constraints("visit")

    def __str__(self) -> str:
        return f"Plan of visit {self.visit_id}"


class VisitEvent(models.Model):
    """What somebody decided, noted or corrected on a visit; without a sample it is about the whole
    visit. Inserted, never changed.

    sent_id, device: its name and clocks where a device made it and sent it later. beside: something
    else had been kept of the sample before; it changes nothing until somebody decides. settles: the
    one beside another that this decision is about.
    """

    class Kind(models.TextChoices):
        BEGUN = "begun", "begun"
        SAFE = "safe", "looked at, and safe"
        NOT_TAKEN = "not-taken", "not sampled"
        CONDITIONS = "conditions", "field conditions noted"
        TEST_CHANGED = "test-changed", "another test asked for"
        TEST_ADDED = "test-added", "one more test asked for"
        CANCELLED = "cancelled", "cancelled"
        TAKEN = "taken", "sampled"
        CORRECTED = "corrected", "corrected"
        TEST_STATE = "test-state", "test begun, done or cancelled"
        PHOTOGRAPHED = "photo", "photographed"
        ENDED = "ended", "handed over"
        DECIDED = "decided", "decided between two records"

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    visit = models.ForeignKey(Visit, models.PROTECT, related_name="events", db_index=False)
    sample = models.ForeignKey(Sample, models.PROTECT, null=True, related_name="events")
    kind = models.CharField(max_length=14, choices=Kind.choices)
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+", db_index=False)
    at = models.DateTimeField(default=clock.now)
    data = models.JSONField(default=dict)
    sent_id = models.CharField(max_length=64, null=True, unique=True)  # noqa: DJ001 - none, not ""
    device = models.JSONField(null=True)
    beside = models.BooleanField(default=False)
    settles = models.ForeignKey(
        "self", models.PROTECT, null=True, related_name="settled_by", db_index=False
    )

    objects = VisitEventQuery.as_manager()

    class Meta:
        ordering = ["pk"]
        constraints = programme_constraints("visit", "sample", "settles")
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.kind}, {self.at:%Y-%m-%d %H:%M}"

    @property
    def why(self) -> str:
        """The reason of a correction."""
        return str(self.data.get("why", ""))

    @property
    def before(self) -> dict[str, object]:
        """What a correction replaced."""
        return dict(self.data.get("before", {}))
