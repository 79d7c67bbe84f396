"""Results, their evaluations and decisions; and the newest value of each quantity at each point."""

from collections.abc import Sequence
from datetime import datetime
from functools import cached_property
from typing import Any

from django.db import models

from kessa.places.models import Point
from kessa.platform import clock
from kessa.platform.days import day_text
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints
from kessa.results.queries import LatestQuery, ResultQuery
from kessa.results.usual_models import EnteredUsual
from kessa.runs.models import Run
from kessa_core.quantities import Interval, Quantity, Value, parameter
from kessa_core.runs import WITHOUT_FIGURE
from kessa_core.trends.news import News, YearAgo
from kessa_core.trends.usual import Usual

__all__ = ["EnteredUsual", "Evaluation", "LatestResult", "Result", "Review"]


def sign_of(code: str) -> str:
    """The sign of an outcome: its verdict; "none" where there is no figure or no limit."""
    return code if code in ("within", "close", "beyond") else "none"


class Result(models.Model):
    """What a run reports, or one stage or difference of it where it reports several.

    stage: empty where the run has one result. outcome_code: the verdict that leads, or why there
    is no figure. Everything but run, stage and parameter is a projection of its run, evaluations,
    decisions and verdicts (kessa.results.projections).
    """

    class Status(models.TextChoices):
        PROVISIONAL = "provisional", "provisional"
        AWAITING = "awaiting", "in progress"
        REVIEWED = "reviewed", "reviewed"
        REJECTED = "rejected", "rejected"
        PRACTICE = "practice", "practice"

    class WaitsFor(models.TextChoices):
        NOBODY = "", "nobody"
        REVIEWER = "reviewer", "its review"
        ANALYST = "analyst", "its analyst"

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    run = models.ForeignKey(Run, models.PROTECT, related_name="results", db_index=False)
    stage = models.CharField(max_length=40, blank=True)
    parameter = models.CharField(max_length=60)
    point = models.ForeignKey(Point, models.PROTECT, related_name="results", db_index=False)
    sampled_at = models.DateTimeField()
    current = models.ForeignKey("Evaluation", models.PROTECT, null=True, related_name="+")
    status = models.CharField(max_length=12, choices=Status.choices, default=Status.PROVISIONAL)
    waits_for = models.CharField(max_length=10, choices=WaitsFor.choices, blank=True)
    outcome_code = models.CharField(max_length=20, blank=True)

    objects = ResultQuery.as_manager()

    in_all: int
    """How many results wait, given by the queue of a reviewer."""

    class Meta:
        constraints = [
            *programme_constraints("run", "point", "current"),
            models.UniqueConstraint(fields=["run", "stage"], name="one_result_a_stage"),
        ]
        indexes = [
            models.Index(fields=["programme", "-sampled_at", "-id"]),
            models.Index(fields=["point", "-sampled_at", "-id"]),
            models.Index(fields=["point", "parameter", "-sampled_at", "-id"]),
            models.Index(fields=["programme", "parameter", "-sampled_at", "-id"]),
            models.Index(fields=["programme", "outcome_code", "-sampled_at", "-id"]),
            models.Index(
                fields=["programme", "waits_for", "sampled_at", "id"],
                name="results_result_waiting",
            ),
        ]

    def __str__(self) -> str:
        return f"Result of {self.run_id}"

    verdicts: Sequence[Any] = ()
    """The newest verdicts on the current evaluation, where kessa.verdicts attached them."""

    @property
    def evaluation(self) -> "Evaluation":
        """The current evaluation. Raises ValueError while there is none."""
        if self.current is None:
            raise ValueError(f"{self} has no evaluation")
        return self.current

    @property
    def described(self) -> str:
        """ "Chloride of 11 November 2026, Beck, at the ford"."""
        day = day_text(self.sampled_at)
        return f"{self.name} of {day}, {self.point}"

    @property
    def name(self) -> str:
        """What was measured, in words."""
        return parameter(self.parameter).name

    @property
    def verdict_code(self) -> str:
        """The verdict that leads; "none" where there is no figure or no limit."""
        return sign_of(self.outcome_code)

    def stage_of(self, run: Run) -> str:
        """The id of the stage or difference in the run's method."""
        return self.stage or run.method.stages[0].id


class Evaluation(models.Model):
    """What the core made of a run's events at a time, with everything that it depended on.

    lots, instruments, traits: what was noted of the lots and instruments, and known of the water.
    context: the sample as it stood. notes: what is said of the value whatever the limit. shown:
    what the bench page had shown, where that differs. made_by and why: who corrected something,
    and the reason.
    """

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    result = models.ForeignKey(Result, models.PROTECT, related_name="evaluations")
    made_at = models.DateTimeField(default=clock.now)
    core_version = models.CharField(max_length=20)
    method_hash = models.CharField(max_length=64)
    lots = models.JSONField(default=list)
    instruments = models.JSONField(default=list)
    traits = models.JSONField(default=list)
    finish = models.CharField(max_length=20)
    decision = models.CharField(max_length=20)
    cause = models.CharField(max_length=240, blank=True)
    parameter = models.CharField(max_length=60)
    form = models.CharField(max_length=20, blank=True)
    basis = models.CharField(max_length=20, blank=True)
    unit = models.CharField(max_length=20, blank=True)
    qualifier = models.CharField(max_length=1, blank=True)
    number = models.FloatField(null=True)
    decimals = models.SmallIntegerField(default=0)
    rounding = models.CharField(max_length=12, default="half-up")
    figure = models.CharField(max_length=60, blank=True)
    reported = models.DecimalField(max_digits=40, decimal_places=15, null=True)
    """The reported figure as a number, rounded as its method rounds; none for a bracket."""
    low = models.FloatField(null=True)
    high = models.FloatField(null=True)
    sure_low = models.FloatField(null=True)
    sure_high = models.FloatField(null=True)
    """The truths for which such readings are just rare enough for a verdict."""
    one_sided = models.BooleanField(default=False)
    bracket_low = models.FloatField(null=True)
    bracket_high = models.FloatField(null=True)
    said = models.CharField(max_length=60, blank=True)
    said_range = models.CharField(max_length=180, blank=True)
    kit_verdict = models.CharField(max_length=10, blank=True)
    """What a kit says that gives a verdict and no figure."""
    how = models.CharField(max_length=60, default="drop count")
    notes = models.JSONField(default=list)
    working = models.CharField(max_length=240, blank=True)
    flags = models.JSONField(default=list)
    determinations = models.JSONField(default=list)
    context = models.JSONField(default=dict)
    shown = models.JSONField(default=dict)
    made_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+", db_index=False)
    why = models.CharField(max_length=240, blank=True)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = programme_constraints("result")
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.finish}, {self.made_at:%Y-%m-%d %H:%M}"

    @property
    def without_figure(self) -> str:
        """Why there is no figure, in words."""
        return next((words for how, words in WITHOUT_FIGURE.items() if how == self.finish), "")

    @property
    def quantity(self) -> Quantity:
        return Quantity(self.parameter, self.form, self.basis, self.unit)

    @cached_property
    def value(self) -> Value | None:
        """The value as the core holds it, or None where there is none."""
        if self.number is None:
            return None
        return Value(
            self.quantity,
            self.number,
            self.decimals,
            Interval(self.low, self.high),
            self.qualifier,
            self.how,
            self.rounding,
            one_sided=Interval(self.sure_low, self.sure_high) if self.one_sided else None,
            bracket=self._bracket,
            said=self.said,
            said_range=self.said_range,
            kit_verdict=self.kit_verdict,
        )

    @property
    def _bracket(self) -> tuple[float, float] | None:
        low, high = self.bracket_low, self.bracket_high
        return None if low is None or high is None else (low, high)


class Review(models.Model):
    """What somebody decided about one evaluation of a result. Inserted, never changed."""

    class Decision(models.TextChoices):
        ACCEPT = "accept", "accepted"
        RETURN = "return", "returned"
        REJECT = "reject", "rejected"
        ANSWER = "answer", "answered"
        REOPENED = "reopened", "back to review"

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    result = models.ForeignKey(Result, models.PROTECT, related_name="reviews")
    evaluation = models.ForeignKey(Evaluation, models.PROTECT, related_name="reviews")
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+", db_index=False)
    at = models.DateTimeField(default=clock.now)
    decision = models.CharField(max_length=10, choices=Decision.choices)
    reason = models.CharField(max_length=500, blank=True)
    batch = models.CharField(max_length=36, blank=True)
    """Of the decisions that a judging again made together, which one audit entry seals."""

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        ordering = ["-id"]
        constraints = programme_constraints("result", "evaluation")
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.decision}, {self.at:%Y-%m-%d %H:%M}"


class LatestResult(models.Model):
    """The newest result of a quantity at a point, how many there are, what is usual there, and how
    the newest stands to that: a projection of the results. "Newest" is by sampling time; usual
    leaves the newest one out. news: see kessa_core.trends.news."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    point = models.ForeignKey(Point, models.PROTECT, related_name="latest", db_index=False)
    parameter = models.CharField(max_length=60)
    form = models.CharField(max_length=20, blank=True)
    basis = models.CharField(max_length=20, blank=True)
    unit = models.CharField(max_length=20, blank=True)
    result = models.ForeignKey(Result, models.PROTECT, related_name="+")
    sampled_at = models.DateTimeField()
    count = models.PositiveIntegerField()
    usual_low = models.FloatField(null=True)
    usual_median = models.FloatField(null=True)
    usual_high = models.FloatField(null=True)
    usual_count = models.PositiveIntegerField(default=0)
    usual_seasonal = models.BooleanField(default=False)
    usual_entered = models.BooleanField(default=False)
    unusual = models.BooleanField(default=False)
    moving = models.BooleanField(default=False)
    """It rose or fell several times in a row, or differs from the same weeks a year ago."""
    news = models.JSONField(default=dict)

    objects = LatestQuery.as_manager()

    class Meta:
        constraints = [
            *programme_constraints("point", "result"),
            models.UniqueConstraint(
                fields=["point", "parameter", "form", "basis", "unit"], name="one_latest_a_quantity"
            ),
        ]
        indexes = [models.Index(fields=["programme", "-sampled_at"])]

    def __str__(self) -> str:
        return f"{self.parameter} at {self.point_id}: {self.count}"

    @property
    def usual(self) -> Usual | None:
        """What was usual at the point before the newest result; None without a history."""
        if self.usual_median is None:
            return None
        band = Interval(self.usual_low, self.usual_high)
        told = self.usual_seasonal, self.usual_entered
        return Usual(self.usual_count, self.usual_median, band, *told)

    @cached_property
    def as_news(self) -> News:
        """How the newest result stands to those before it."""
        kept = dict(self.news)
        since, year = kept.pop("since", None), kept.pop("year_ago", None)
        return News(
            self.usual,
            since=datetime.fromisoformat(since) if since else None,
            year_ago=YearAgo(*year) if year else None,
            **kept,
        )
