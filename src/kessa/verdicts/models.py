"""Verdicts: an evaluation against a limit as it stood. Inserted, never changed."""

from functools import cached_property
from typing import Any, cast

from django.db import models

from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import insert_only, programme_constraints, programme_foreign_keys
from kessa.results.models import Evaluation
from kessa.verdicts.queries import VerdictQuery
from kessa_core.judging import Limit
from kessa_core.judging import Verdict as CoreVerdict
from kessa_core.judging.comparing import Sign
from kessa_core.judging.verdict import inapplicable


class JudgedLimit(models.Model):
    """A limit as it stood when something was judged against it. Inserted, never changed.

    data: the whole limit. hash: of set, edition and data, so that each is kept once.
    """

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    limit_set = models.CharField(max_length=60)
    edition = models.CharField(max_length=80)
    limit_id = models.CharField(max_length=60)
    data = models.JSONField()
    hash = models.CharField(max_length=64)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            *programme_constraints(),
            models.UniqueConstraint(fields=["programme", "hash"], name="each_judged_limit_once"),
        ]
        triggers = [insert_only()]

    def __str__(self) -> str:
        return f"{self.limit_set}, {self.edition}: {self.limit_id}"

    @cached_property
    def as_core(self) -> Limit:
        """The limit as the core holds it."""
        return Limit.model_validate(self.data)


class Verdict(models.Model):
    """One evaluation against one limit of its quantity; without a limit where none is set.

    round: 1 when the evaluation was made, one more each time it was judged again; the newest round
    holds. leads: the one that stands for the result. in_force_at: the sampling time, which
    decides the limit; judged_at: which decides its edition. sentences: what was said, empty where
    it follows from limit and value. usual: what was usual at the point then.
    """

    programme = models.ForeignKey(
        Programme, models.PROTECT, db_index=False, db_constraint=False
    )  # the keys to evaluation and limit carry it
    evaluation = models.ForeignKey(
        Evaluation, models.PROTECT, related_name="verdicts", db_index=False, db_constraint=False
    )
    limit = models.ForeignKey(
        JudgedLimit,
        models.PROTECT,
        null=True,
        related_name="verdicts",
        db_index=False,
        db_constraint=False,
    )
    round = models.PositiveIntegerField(default=1)
    leads = models.BooleanField()
    code = models.CharField(max_length=10)
    reported_code = models.CharField(max_length=10)
    in_force_at = models.DateTimeField()
    judged_at = models.DateTimeField(default=clock.now)
    judged_by = models.ForeignKey(
        Person, models.PROTECT, null=True, related_name="+", db_index=False
    )
    core_version = models.CharField(max_length=20)
    sentences = models.JSONField(default=list)
    usual = models.JSONField(null=True)
    batch = models.CharField(max_length=36, blank=True)
    """Of the verdicts that a judging again made together, which one audit entry seals."""

    objects = VerdictQuery.as_manager()

    class Meta:
        constraints = [
            *programme_foreign_keys("evaluation", "limit"),
            models.UniqueConstraint(
                fields=["evaluation", "round", "limit"],
                name="one_verdict_a_limit_and_round",
                nulls_distinct=False,
            ),
        ]
        triggers = [insert_only()]
        indexes = [
            models.Index(
                fields=["programme", "limit", "-in_force_at", "-id"], name="verdicts_verdict_limit"
            ),
            models.Index(
                fields=["programme", "batch"],
                name="verdicts_verdict_batch",
                condition=~models.Q(batch=""),
            ),
        ]

    def __str__(self) -> str:
        return f"{self.code} {self.limit or ''}".strip()

    @property
    def key(self) -> tuple[Any, ...]:
        """What makes it the same verdict as another one."""
        return (self.limit_id, self.code, self.reported_code, self.leads)

    @cached_property
    def as_core(self) -> CoreVerdict:
        """The verdict as the core says it."""
        limit = self.limit.as_core if self.limit else None
        value = self.evaluation.value
        reason = inapplicable(value.quantity, limit) if value and limit else ""
        code, reported = cast(Sign, self.code), cast(Sign, self.reported_code)
        return CoreVerdict(limit, code, reported, value, reason)

    @property
    def words(self) -> str:
        """The verdict in words."""
        return self.as_core.words

    @property
    def against(self) -> str:
        """The limit in short: "long-term 120"."""
        return self.as_core.against
