"""Writing limit sets: drafts, limit by limit, and their publication as editions."""

from collections.abc import Callable
from typing import Any

from django.db import transaction
from django.utils.text import slugify

from kessa.places.limit_models import LimitSetDraft, OwnLimitSet
from kessa.places.limit_sets import find_set
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.hashes import seal_of
from kessa.platform.locks import lock_until_commit
from kessa.platform.models import Person, Programme
from kessa_core.judging import limit_sets, set_drafts
from kessa_core.judging.set_drafts import Draft

TARGETS = "targets"
"""How the keys of the sets begin that hold one water's own targets."""


def begin_blank(programme: Programme, by: Person, title: str) -> LimitSetDraft:
    """A draft without a limit."""
    data = set_drafts.blank(title)
    return LimitSetDraft.objects.create(programme=programme, data=data, saved_by=by)


def begin_copy(programme: Programme, by: Person, key: str) -> LimitSetDraft:
    """A draft that begins as a copy of the set with this key: the next edition where it is one's
    own; the one under way where there is one. Raises UnknownName."""
    held = find_set(programme.pk, key)
    own = OwnLimitSet.objects.of(programme).filter(set_id=key).first()
    family = own.family if own else ""
    if family:
        drafts = LimitSetDraft.objects.of(programme).open().filter(family=family)
        under_way: LimitSetDraft | None = drafts.first()
        if under_way:
            return under_way
    title = held.title if family else f"{held.title}, ours"
    return LimitSetDraft.objects.create(
        programme=programme,
        data=set_drafts.copy_of(held, title),
        family=family,
        based_on=key,
        saved_by=by,
    )


@transaction.atomic
def change(
    draft: LimitSetDraft, by: Person, revision: int, how: Callable[[Draft], Draft]
) -> LimitSetDraft:
    """Change what a draft says, as it stood at *revision*.

    Raises ActionNotAllowed where somebody else changed it since.
    """
    drafts = LimitSetDraft.objects.of(draft.programme_id).open()
    held: LimitSetDraft = drafts.select_for_update().get(pk=draft.pk)
    if held.revision != revision:
        raise ActionNotAllowed(f"{held.saved_by} changed this set meanwhile.")
    held.data = how(held.data)
    held.revision += 1
    held.saved_by, held.saved_at = by, clock.now()
    held.save()
    return held


@transaction.atomic
def publish(draft: LimitSetDraft, by: Person, what: str) -> OwnLimitSet:
    """The draft as an edition; it is closed then. It applies nowhere until it is attached.

    Raises InvalidDocument where something is missing or wrong.
    """
    lock_until_commit(f"own limits {draft.programme_id}")
    own = OwnLimitSet.objects.of(draft.programme_id)
    family = draft.family or _free_family(draft.programme_id, draft.data["title"])
    key = f"{family}-{own.filter(family=family).count() + 1}"
    set_drafts.set_of(draft.data, key)
    made = OwnLimitSet.objects.create(
        programme_id=draft.programme_id,
        set_id=key,
        family=family,
        based_on=draft.based_on,
        what=what[:240],
        document=set_drafts.document_of(draft.data, key),
        made_by=by,
    )
    said: dict[str, Any] = {"name": made.as_core.title, "edition": made.as_core.edition}
    said["seals"] = [seal_of([made])]
    close(draft)
    record(made.programme, by, "limits.published", made, **said)
    return made


def close(draft: LimitSetDraft) -> None:
    """The draft is done with."""
    draft.closed = True
    draft.save(update_fields=["closed"])


def _free_family(programme_id: int, title: str) -> str:
    """A name for the editions of a new set that nothing else has."""
    taken = set(OwnLimitSet.objects.of(programme_id).values_list("family", flat=True))
    base = slugify(title)[:40].strip("-") or "limits"
    base = base if base[0].isalpha() and not base.startswith(TARGETS) else f"our-{base}"
    names = [base, *(f"{base}-set-{number}" for number in range(2, len(taken) + 3))]
    return next(n for n in names if n not in taken and f"{n}-1" not in limit_sets())
