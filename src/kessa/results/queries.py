"""Results in the words of the field."""

from datetime import date, datetime
from typing import Any, Self

from django.db.models import F, Q, Value
from django.db.models.functions import Greatest

from kessa.platform.days import between_days
from kessa.platform.queries import beside_the_names
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.runs.models import RunInstrument, RunLot
from kessa_core.runs import WITHOUT_FIGURE

OF_AN_EVALUATION = (
    "result", "programme", "finish", "cause", "parameter", "form", "basis", "unit", "qualifier",
    "number", "decimals", "rounding", "figure", "low", "high", "sure_low", "sure_high", "one_sided",
    "bracket_low", "bracket_high", "said", "said_range", "kit_verdict", "how",
)  # fmt: skip
"""Columns that a list shows; the others are read on a result's page alone."""
OF_A_FIGURE = ("result", "programme", "figure", "number", "parameter", "form", "basis", "unit")
"""Columns of an evaluation that say its figure and unit."""
OF_A_POINT = ("programme", "order", "name", "water__name")

OF_A_ROW = (
    "programme", "run__programme", "run__continues", "run__version", "run__opened_by__username",
    "run__opened_by__shown_name", "stage", "parameter", "sampled_at", "status", "waits_for",
    "outcome_code", *(f"current__{name}" for name in OF_AN_EVALUATION),
)  # fmt: skip

EARLIER = (
    "sampled_at", "current__number", "current__qualifier", "current__low", "current__high",
)  # fmt: skip
"""The columns of an earlier result, in the order of kessa_core.trends.series.Earlier."""

REPORTABLE = ("provisional", "reviewed")
"""The states of a result that is reported: neither rejected nor practice, nor taken up again."""


class ResultQuery(ProgrammeQuerySet):
    """of(programme).at(point).of_parameter(key).counting()"""

    def at(self, point: Any) -> Self:
        return self.filter(point=point)

    def of_parameter(self, key: str) -> Self:
        return self.filter(parameter=key)

    def with_lot(self, lot: Any) -> Self:
        """Results of runs that used this lot of a reagent."""
        return self.filter(run__in=RunLot.objects.done_with(lot).values("run"))

    def with_instrument(self, instrument: Any) -> Self:
        """Results of runs that were read with this instrument."""
        used = RunInstrument.objects.of(instrument.programme_id).read_with(instrument)
        return self.filter(run__in=used.values("run"))

    def counting(self) -> Self:
        """Results that count for what is usual: reportable ones with a figure."""
        return self.reportable().filter(current__finish="done", current__number__isnull=False)

    def reportable(self) -> Self:
        """Neither rejected nor practice, nor of a run that was taken up again."""
        return self.filter(status__in=REPORTABLE)

    def for_review(self) -> Self:
        """What waits for a reviewer, the oldest first."""
        return self.filter(waits_for="reviewer").order_by("sampled_at", "id")

    def returned_to(self, person: Any) -> Self:
        """What a reviewer sent back to this analyst."""
        return self.filter(waits_for="analyst", run__opened_by=person).order_by("sampled_at")

    def nearest_of_each(self, at: datetime) -> Self:
        """Of each quantity at each point the result that was sampled nearest to *at*."""
        names = ("point_id", "parameter", "current__form", "current__basis", "current__unit")
        apart = Greatest(F("sampled_at") - Value(at), Value(at) - F("sampled_at"))
        return self.order_by(*names, apart, "-id").distinct(*names)

    def newest_first(self) -> Self:
        return self.order_by("-sampled_at", "-id")

    def oldest_first(self) -> Self:
        return self.order_by("sampled_at", "id")

    def with_outcome(self, code: str) -> Self:
        """By verdict, or by why there is no figure; "none": neither figure nor limit."""
        wanted = ["none", *WITHOUT_FIGURE] if code == "none" else [code]
        return self.filter(outcome_code__in=wanted)

    def for_lists(self) -> Self:
        """What a row of a list shows, in one query: without what only a result's page reads."""
        related = self.select_related("current", "point__water", "run__opened_by")
        return related.only(*OF_A_ROW, *(f"point__{name}" for name in OF_A_POINT))

    def for_log_rows(self) -> Self:
        """The same without its point, which log_rows() gives it."""
        return self.select_related("current", "run__opened_by").only("point", *OF_A_ROW)

    def for_queue(self) -> Self:
        """What the queue of a reviewer says of each."""
        return self.select_related("current", "point", "run__opened_by").only(
            "programme", "parameter", "sampled_at", "outcome_code", "point__programme",
            "point__name", "run__programme", "run__opened_by__username",
            "run__opened_by__shown_name", *(f"current__{name}" for name in OF_A_FIGURE),
        )  # fmt: skip

    def for_values(self) -> Self:
        """What was measured, when, and in which part of the water."""
        return self.select_related("current", "point").only(
            "programme", "parameter", "sampled_at", "point__programme", "point__part",
            *(f"current__{name}" for name in OF_AN_EVALUATION),
        )  # fmt: skip

    def for_links(self) -> Self:
        """What a link to a result says: what was measured, where and when."""
        return self.select_related("point").only(
            "programme", "parameter", "sampled_at", "point__programme", "point__name"
        )

    def with_evidence(self) -> Self:
        """Everything a result's page shows of its run and sample, in one query; its evaluations are
        read together."""
        related = self.select_related(
            "point__water",
            "run__version",
            "run__opened_by",
            "run__sample__taken_by",
        )
        return related.defer(*beside_the_names("run__opened_by", "run__sample__taken_by"))

    def between(self, first: date | None, last: date | None) -> Self:
        """Sampled from *first* to *last*, both days included; None is open."""
        return self.filter(between_days("sampled_at", first, last))

    def older_than(self, at: datetime, number: int) -> Self:
        """What comes after (at, number) in newest_first()."""
        return self.filter(Q(sampled_at__lt=at) | Q(sampled_at=at, pk__lt=number))

    def newer_than(self, at: datetime, number: int) -> Self:
        """What comes before (at, number) in newest_first()."""
        return self.filter(Q(sampled_at__gt=at) | Q(sampled_at=at, pk__gt=number))


class LatestQuery(ProgrammeQuerySet):
    """of(programme).with_values()"""

    def with_values(self) -> Self:
        """With the newest result and its figures; who lists them has the points."""
        return self.select_related("result__current").only(
            *(field.attname for field in self.model._meta.concrete_fields),
            *(f"result__{name}" for name in ("programme", "parameter", "sampled_at", "run")),
            *(f"result__{name}" for name in ("outcome_code", "status")),
            *(f"result__current__{name}" for name in OF_AN_EVALUATION),
        )
