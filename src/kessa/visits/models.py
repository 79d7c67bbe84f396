"""A visit, and what came of each point it went to."""

from django.db import models

from kessa.accounts.models import Person, Programme
from kessa.visits.queries import SampleQuery
from kessa.waters.models import Point


class Visit(models.Model):
    """One going to one or several points."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    made_by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    begun_at = models.DateTimeField()

    def __str__(self) -> str:
        return f"Visit of {self.begun_at:%d %B %Y}"


class Sample(models.Model):
    """What was taken at a point at a time, with its context; or that nothing was, and why."""

    class Outcome(models.TextChoices):
        OPEN = "open", "on the way"
        TAKEN = "taken", "sampled"
        NOT_TAKEN = "not-taken", "not sampled"
        CANCELLED = "cancelled", "cancelled"

    programme = models.ForeignKey(Programme, models.PROTECT)
    visit = models.ForeignKey(Visit, models.PROTECT, related_name="samples")
    point = models.ForeignKey(Point, models.PROTECT, related_name="samples")
    method_id = models.SlugField(max_length=60, help_text="The test that was asked for.")
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
    taken_at = models.DateTimeField(null=True)
    depth_cm = models.PositiveSmallIntegerField(null=True)
    zone = models.CharField(max_length=40, blank=True)
    precision = models.CharField(max_length=10, default="minute")
    taken_by = models.ForeignKey(Person, models.PROTECT, null=True, related_name="+")

    objects = SampleQuery.as_manager()

    class Meta:
        indexes = [models.Index(fields=["programme", "point", "-taken_at"])]

    def __str__(self) -> str:
        return f"Sample at {self.point_id}"

    @property
    def next_step(self) -> str:
        """The name of the page where this sample goes on."""
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


class SampleCorrection(models.Model):
    """A sample or its context put right: what stood before, what stands now, who, when, why."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    sample = models.ForeignKey(Sample, models.PROTECT, related_name="corrections")
    by = models.ForeignKey(Person, models.PROTECT, related_name="+")
    at = models.DateTimeField()
    why = models.CharField(max_length=240)
    before = models.JSONField(default=dict)
    after = models.JSONField(default=dict)

    class Meta:
        ordering = ["-at", "-id"]

    def __str__(self) -> str:
        return f"Correction of sample {self.sample_id}"
