"""Results and their evaluations. An evaluation is inserted, never updated."""

from django.db import models

from kessa.accounts.models import Person, Programme
from kessa.bench.models import Run
from kessa.log.queries import ResultQuery
from kessa.waters.models import Point
from kessa_core.quantities import Interval, Quantity, Value, parameter
from kessa_core.runs import WITHOUT_FIGURE


class Result(models.Model):
    """What a run reports, or one stage or difference of it where it reports several.

    Its figures are those of the current evaluation. stage: empty where the run has one result.
    """

    class Status(models.TextChoices):
        PROVISIONAL = "provisional", "provisional"
        AWAITING = "awaiting", "awaiting reading"
        REVIEWED = "reviewed", "reviewed"
        REJECTED = "rejected", "rejected"
        PRACTICE = "practice", "practice"

    class WaitsFor(models.TextChoices):
        NOBODY = "", "nobody"
        REVIEWER = "reviewer", "its review"
        ANALYST = "analyst", "its analyst"

    programme = models.ForeignKey(Programme, models.PROTECT)
    run = models.ForeignKey(Run, models.PROTECT, related_name="results")
    stage = models.CharField(max_length=40, blank=True)
    point = models.ForeignKey(Point, models.PROTECT, related_name="results")
    parameter = models.CharField(max_length=60)
    status = models.CharField(max_length=12, choices=Status.choices, default=Status.PROVISIONAL)
    waits_for = models.CharField(max_length=10, choices=WaitsFor.choices, blank=True)
    sampled_at = models.DateTimeField()
    current = models.ForeignKey("Evaluation", models.PROTECT, null=True, related_name="+")

    objects = ResultQuery.as_manager()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["run", "stage"], name="one_result_a_stage")]
        indexes = [
            models.Index(fields=["programme", "-sampled_at"]),
            models.Index(fields=["point", "parameter", "-sampled_at"]),
            models.Index(fields=["programme", "waits_for", "-sampled_at"]),
        ]

    def __str__(self) -> str:
        return f"Result of {self.run_id}"

    @property
    def name(self) -> str:
        """What was measured, in words."""
        return parameter(self.parameter).name

    def stage_of(self, run: Run) -> str:
        """The id of the stage or difference in the run's method."""
        return self.stage or run.version.method.stages[0].id


class Evaluation(models.Model):
    """What the core made of a run's events at a time, with everything that it depended on.

    context: the sample as it stood. shown: what the bench page had shown, where that differs.
    made_by and why: who corrected something, and the reason; a bench act needs none.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    result = models.ForeignKey(Result, models.PROTECT, related_name="evaluations")
    made_at = models.DateTimeField(auto_now_add=True)
    core_version = models.CharField(max_length=20)
    method_hash = models.CharField(max_length=64)
    lot_revision = models.PositiveIntegerField(null=True)
    """Of the first two seals, which hold it; lots has taken its place."""
    lots = models.JSONField(default=list)
    limit_set = models.CharField(max_length=60, blank=True)
    limit_edition = models.CharField(max_length=80, blank=True)
    finish = models.CharField(max_length=20)
    decision = models.CharField(max_length=20)
    cause = models.CharField(max_length=240, blank=True)
    qualifier = models.CharField(max_length=1, blank=True)
    number = models.FloatField(null=True)
    decimals = models.SmallIntegerField(default=0)
    rounding = models.CharField(max_length=12, default="half-up")
    form = models.CharField(max_length=20, blank=True)
    basis = models.CharField(max_length=20, blank=True)
    unit = models.CharField(max_length=20, blank=True)
    low = models.FloatField(null=True)
    high = models.FloatField(null=True)
    bracket_low = models.FloatField(null=True)
    bracket_high = models.FloatField(null=True)
    said = models.CharField(max_length=60, blank=True)
    said_range = models.CharField(max_length=180, blank=True)
    how = models.CharField(max_length=60, default="drop count")
    sign = models.CharField(max_length=10, blank=True)
    reported_sign = models.CharField(max_length=10, blank=True)
    limit_id = models.CharField(max_length=60, blank=True)
    against = models.CharField(max_length=80, blank=True)
    sentences = models.JSONField(default=list)
    working = models.CharField(max_length=240, blank=True)
    flags = models.JSONField(default=list)
    determinations = models.JSONField(default=list)
    context = models.JSONField(default=dict)
    shown = models.JSONField(default=dict)
    made_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    why = models.CharField(max_length=240, blank=True)

    class Meta:
        ordering = ["-made_at", "-id"]

    def __str__(self) -> str:
        return f"{self.finish}, {self.made_at:%Y-%m-%d %H:%M}"

    @property
    def without_figure(self) -> str:
        """Why there is no figure, in words."""
        return WITHOUT_FIGURE.get(self.finish, "")

    def value_of(self, parameter: str) -> Value | None:
        """The value as the core holds it, or None where there is none."""
        if self.number is None:
            return None
        return Value(
            Quantity(parameter, self.form, self.basis, self.unit),
            self.number,
            self.decimals,
            Interval(self.low, self.high),
            self.qualifier,
            self.how,
            self.rounding,
            bracket=self._bracket,
            said=self.said,
            said_range=self.said_range,
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

    programme = models.ForeignKey(Programme, models.PROTECT)
    result = models.ForeignKey(Result, models.PROTECT, related_name="reviews")
    evaluation = models.ForeignKey(Evaluation, models.PROTECT, related_name="reviews")
    by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")
    at = models.DateTimeField()
    decision = models.CharField(max_length=10, choices=Decision.choices)
    reason = models.CharField(max_length=500, blank=True)

    class Meta:
        ordering = ["-at", "-id"]

    def __str__(self) -> str:
        return f"{self.decision}, {self.at:%Y-%m-%d %H:%M}"
