"""Methods being written: a draft with every step of its writing, and parameters of one's own."""

from django.db import models

from kessa.library.queries import DraftQuery
from kessa.platform import clock
from kessa.platform.models import Person, Programme
from kessa.platform.scoping import ProgrammeQuerySet
from kessa.platform.tenancy import programme_constraints


class MethodDraft(models.Model):
    """A method document being written. data: what it says so far; revision counts its changes.

    text: what was last typed as text, while it is no document. tried: what a trial came to, with
    the fingerprint of what was tried. published: the version it became; closed: discarded.
    """

    programme = models.ForeignKey(Programme, models.PROTECT)
    title = models.CharField(max_length=80)
    data = models.JSONField(default=dict)
    text = models.TextField(blank=True)
    revision = models.PositiveIntegerField(default=1)
    tried = models.JSONField(default=dict, blank=True)
    made_by = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    saved_by = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    saved_at = models.DateTimeField(default=clock.now)
    published = models.ForeignKey(
        "library.MethodVersion", models.PROTECT, null=True, related_name="+"
    )
    closed = models.BooleanField(default=False)

    objects = DraftQuery.as_manager()

    class Meta:
        constraints = programme_constraints("published")
        ordering = ["-saved_at"]

    def __str__(self) -> str:
        return f"Draft: {self.title}"


class DraftRevision(models.Model):
    """What a draft said at a revision: what a change is held against, and never lost."""

    programme = models.ForeignKey(Programme, models.PROTECT, db_index=False)
    draft = models.ForeignKey(MethodDraft, models.PROTECT, related_name="revisions")
    number = models.PositiveIntegerField()
    data = models.JSONField()
    by = models.ForeignKey(Person, models.PROTECT, related_name="+", db_index=False)
    at = models.DateTimeField(default=clock.now)

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            *programme_constraints("draft"),
            models.UniqueConstraint(fields=["draft", "number"], name="one_draft_revision_a_number"),
        ]

    def __str__(self) -> str:
        return f"{self.draft}, revision {self.number}"


class OwnParameter(models.Model):
    """A parameter that a method of the programme brought along, so that results can name it."""

    programme = models.ForeignKey(Programme, models.PROTECT)
    key = models.SlugField(max_length=60)
    definition = models.JSONField()

    objects = ProgrammeQuerySet.as_manager()

    class Meta:
        constraints = [
            *programme_constraints(),
            models.UniqueConstraint(fields=["programme", "key"], name="one_own_parameter_a_key"),
        ]

    def __str__(self) -> str:
        return str(self.definition.get("name", self.key))
