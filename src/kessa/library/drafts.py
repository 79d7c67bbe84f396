"""Writing a method: changes to a draft, its trial, and its publication as a version."""

import copy
import hashlib
import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from django.db import transaction
from django.utils import timezone

from kessa.library.models import DraftRevision, MethodDraft, MethodVersion
from kessa.library.services import take_up
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.locks import lock_until_commit
from kessa.platform.models import Person, Programme
from kessa_core.drafts import edits, problems, starts, trial
from kessa_core.drafts.edits import Conflict
from kessa_core.drafts.starts import Draft
from kessa_core.errors import CoreError
from kessa_core.methods import Method, shipped_ids


class NotPublished(CoreError):
    """Why a draft cannot be published yet."""


@dataclass(frozen=True)
class Saved:
    """What a change to a draft came to. conflicts: fields that somebody else changed meanwhile;
    merged: whether changes are in it that the page does not show yet; also_by: the other person who
    made them; follows: whether other fields followed from what was typed."""

    draft: MethodDraft
    conflicts: tuple[Conflict, ...] = ()
    merged: bool = False
    also_by: Person | None = None
    follows: bool = False


@transaction.atomic
def begin(programme: Programme, by: Person, data: Draft) -> MethodDraft:
    """A new draft that says this."""
    title = str(data.get("title", "")) or "A method without a name"
    draft = MethodDraft.objects.create(
        programme=programme, title=title[:80], data=data, made_by=by, saved_by=by
    )
    _keep_revision(draft, by)
    return draft


def begin_with(programme: Programme, by: Person, held: str, title: str) -> MethodDraft:
    """A draft that begins with what is held in the hand. Raises UnknownName as starts.start()."""
    return begin(programme, by, starts.begin(held, title))


def begin_from(programme: Programme, by: Person, method: Method, title: str) -> MethodDraft:
    """A draft that begins as a copy of another method."""
    return begin(programme, by, starts.from_method(method, title))


def begin_next(version: MethodVersion, by: Person) -> MethodDraft:
    """A draft of the next version of one's own method; the one under way where there is one."""
    under_way = MethodDraft.objects.of(version.programme).open()
    same: MethodDraft | None = under_way.filter(data__id=version.method_id).first()
    if same:
        return same
    data = version.method.model_dump(mode="json", exclude_defaults=True)
    data.pop("local_settings", None)
    return begin(version.programme, by, data | {"version": version.version + 1})


@transaction.atomic
def save_fields(draft: MethodDraft, by: Person, revision: int, typed: Mapping[str, Any]) -> Saved:
    """Save what was typed into fields as they stood at *revision*.

    Raises NoSuchPlace where somebody else took a part away that was typed into.
    """
    held = _locked(draft)
    was = _at(held, revision)
    before = {name: edits.get(was, edits.path_of(name)) for name in typed}
    made, conflicts = edits.merged(held.data, before, typed)
    merged = held.revision != revision
    also_by = held.saved_by if merged and held.saved_by != by else None
    follows = starts.follow_parameters(held.data, made)
    follows = starts.asks_another_field(held.data, made) or follows
    if made != held.data:
        _store(held, by, made)
    return Saved(held, conflicts, merged, also_by, follows)


@transaction.atomic
def change(draft: MethodDraft, by: Person, how: Callable[[Draft], Any]) -> MethodDraft:
    """Change a draft's shape: add, remove, move, hold something else.

    Raises NoSuchPlace where what is to be changed is no longer there.
    """
    held = _locked(draft)
    made = copy.deepcopy(held.data)
    made = how(made) or made
    if made != held.data:
        _store(held, by, made)
    return held


@transaction.atomic
def save_text(draft: MethodDraft, by: Person, revision: int, text: str) -> Saved:
    """Save the document typed as text. Text that is no mapping is kept as it was typed.

    Where somebody else saved meanwhile, both are kept: the text, and what they saved.
    """
    held = _locked(draft)
    data = problems.plain(text)
    if data is None or held.revision != revision:
        held.text = text
        held.save(update_fields=["text"])
        return Saved(held, merged=held.revision != revision)
    held.text = ""
    _store(held, by, data)
    return Saved(held)


def close(draft: MethodDraft) -> None:
    """Discard a draft; its record stays."""
    draft.closed = True
    draft.save(update_fields=["closed"])


def try_draft(draft: MethodDraft) -> trial.Trial:
    """Try the draft on simulated samples, and keep what came of it with what was tried.

    Raises InvalidDocument where the draft is no method yet.
    """
    found = trial.try_out(problems.method_of(draft.data))
    draft.tried = {
        "of": fingerprint(draft.data),
        "fits": found.fits,
        "ended": found.ended,
        "stages": [vars(stage) | {"fits": stage.fits} for stage in found.stages],
    }
    draft.save(update_fields=["tried"])
    return found


def is_tried(draft: MethodDraft) -> bool:
    """Whether what the draft says now was tried and came to its end."""
    return bool(draft.tried.get("of") == fingerprint(draft.data) and draft.tried.get("ended"))


@transaction.atomic
def publish(draft: MethodDraft, by: Person, what: str) -> MethodVersion:
    """Make the draft the next version of its method, used from the next test on.

    Raises NotPublished where it was not tried as it stands, and InvalidDocument.
    """
    held = _locked(draft)
    if held.published or held.closed:
        raise NotPublished("This draft was already published or discarded.")
    if not is_tried(held):
        raise NotPublished(
            "Try it on simulated samples first.", remedy="It was changed since, or never tried."
        )
    method_id = str(held.data["id"])
    if method_id in shipped_ids():
        raise NotPublished(
            f"Kessa ships a method with the key {method_id}.", remedy="Give yours another key."
        )
    lock_until_commit(f"method {held.programme_id} {method_id}")
    versions = MethodVersion.objects.of(held.programme_id).filter(method_id=method_id)
    newest = versions.order_by("-version").first()
    number = newest.version + 1 if newest else 1
    older = newest.method.model_dump(mode="json")["changes"] if newest else []
    today = timezone.localdate(clock.now()).isoformat()
    data = held.data | {"version": number, "changes": older}
    words = what or (problems.FIRST_ISSUE if number == 1 else "")
    if not words:
        raise NotPublished("Say what changed in this version.")
    version = take_up(held.programme, problems.text_of(problems.finished(data, words, today)), by)
    held.published = version
    held.save(update_fields=["published"])
    record(
        held.programme, by, "method.published", version,
        name=f"{version.method_id}, version {number}", draft=held.pk, what=words,
    )  # fmt: skip
    return version


def fingerprint(data: Draft) -> str:
    """Of what a draft says, whatever the order of its keys."""
    return hashlib.sha256(json.dumps(data, sort_keys=True).encode()).hexdigest()


def _locked(draft: MethodDraft) -> MethodDraft:
    drafts = MethodDraft.objects.of(draft.programme_id).select_for_update(of=("self",))
    held: MethodDraft = drafts.get(pk=draft.pk)
    return held


def _at(draft: MethodDraft, revision: int) -> Draft:
    if revision == draft.revision:
        return dict(draft.data)
    held = DraftRevision.objects.of(draft.programme_id).filter(draft=draft, number=revision).first()
    return dict(held.data) if held else {}


def _store(draft: MethodDraft, by: Person, data: Draft) -> None:
    draft.data = data
    draft.title = str(data.get("title") or draft.title)[:80]
    draft.revision += 1
    draft.saved_by, draft.saved_at = by, clock.now()
    draft.save(update_fields=["data", "title", "text", "revision", "saved_by", "saved_at"])
    _keep_revision(draft, by)


def _keep_revision(draft: MethodDraft, by: Person) -> None:
    DraftRevision.objects.create(
        programme_id=draft.programme_id, draft=draft, number=draft.revision, data=draft.data, by=by
    )
