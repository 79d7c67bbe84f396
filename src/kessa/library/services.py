"""Taking up a method document, and a programme's own choices on it."""

from collections.abc import Container, Mapping
from dataclasses import dataclass

from django.db import transaction
from django.db.models import F
from django.utils import timezone

from kessa.library.models import MethodUse, MethodVersion
from kessa.library.own_parameters import keep
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.locks import lock_until_commit
from kessa.platform.models import Person, Programme
from kessa_core.methods import Method, load, shipped, shipped_ids
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.local_settings import questions, with_local_settings


def methods_at_hand(programme: Programme) -> list[MethodVersion]:
    """The newest version of every method in use, the most used here first."""
    used = dict(MethodUse.objects.of(programme).values_list("method_id", "count"))
    versions = MethodVersion.objects.of(programme).newest()
    return sorted(versions, key=lambda one: (-used.get(one.method_id, 0), one.title))


def methods_of(programme: Programme) -> list[Method]:
    """The newest document of every method in use."""
    return [version.method for version in MethodVersion.objects.of(programme).newest()]


def count_use(version: MethodVersion) -> None:
    """A run of this method was opened."""
    uses = MethodUse.objects.of(version.programme_id)
    use, _ = uses.get_or_create(programme_id=version.programme_id, method_id=version.method_id)
    uses.filter(pk=use.pk).update(count=F("count") + 1)


@transaction.atomic
def in_use(programme: Programme, method_id: str, by: Person) -> MethodVersion | None:
    """The newest version of a method; one that is only shipped is taken up first, and
    with it those that go on where its scale ends."""
    newest = MethodVersion.objects.of(programme).newest().filter(method_id=method_id).first()
    if newest is None and method_id in shipped_ids():
        newest = take_up(programme, shipped_text(method_id), by)
        for follower in newest.method.followers:
            in_use(programme, follower, by)
    return newest


def shipped_beside(used: Container[str]) -> list[Method]:
    """Shipped methods beside those that a programme uses, of which these are the ids."""
    return [shipped(key) for key in shipped_ids() if key not in used]


@dataclass(frozen=True)
class Update:
    """A newer document of a method that the programme uses, and what changed in it."""

    in_use: MethodVersion
    newer: Method
    changes: list[str]


def updates(programme: Programme) -> list[Update]:
    """Shipped methods of which the programme uses an older version."""
    found = []
    in_use = MethodVersion.objects.of(programme).newest().filter(method_id__in=shipped_ids())
    for version in in_use.defer("document"):
        newer = shipped(version.method_id)
        if newer.version > version.version:
            changes = [one.what for one in newer.changes if one.version > version.version]
            found.append(Update(version, newer, changes))
    return found


@transaction.atomic
def update(version: MethodVersion, by: Person) -> MethodVersion:
    """Use the shipped method's newest version from the next test on, with the programme's own
    choices where the new one still offers them. Tests under way and recorded results keep theirs.
    """
    taken = take_up(version.programme, shipped_text(version.method_id), by)
    for follower in taken.method.followers:
        in_use(version.programme, follower, by)
    settings_before = version.method.local_settings
    if not settings_before:
        return taken
    offered = {(q.stage, q.matter) for q in questions(taken.method)}
    wanted = {at: option for at, option in settings_before.wanted.items() if at in offered}
    return follow(taken, by, wanted, settings_before.why) if wanted else taken


@transaction.atomic
def take_up(programme: Programme, document: str, by: Person | None = None) -> MethodVersion:
    """Keep *document* as a version the programme uses; the same version again changes nothing.

    Raises BadDocument as kessa_core.methods.load.
    """
    method = load(document)
    version, fresh = MethodVersion.objects.get_or_create(
        programme=programme,
        method_id=method.id,
        version=method.version,
        own=method.local_settings.number if method.local_settings else 0,
        defaults={"hash": method.hash, "title": method.title, "document": document},
    )
    if fresh:
        keep(programme, method)
        act = "method.own-settings" if method.local_settings else "method.taken-up"
        name = f"{method.id}, version {method.number}"
        seals = [seal_of([version])]
        record(programme, by, act, version, name=name, hash=method.hash, seals=seals)
    return version


@transaction.atomic
def follow(
    version: MethodVersion, by: Person, wanted: Mapping[tuple[str, str], str], why: str
) -> MethodVersion:
    """The programme's own options on a method, by (stage, matter): a document of its own, used from
    now on. What is under way and what was recorded keeps the document it began with; where nothing
    changes there is no new one.

    Raises BadChoice as kessa_core.methods.local_settings.with_local_settings.
    """
    programme = version.programme
    same = MethodVersion.objects.of(programme).filter(
        method_id=version.method_id, version=version.version
    )
    lock_until_commit(f"method {programme.pk} {version.method_id}")
    kit = same.get(own=0)
    number = same.order_by("-own").values_list("own", flat=True)[0] + 1
    today = timezone.localdate(clock.now()).isoformat()
    document = with_local_settings(kit.method, wanted, programme.name, number, today, why)
    if load(document).stages == version.method.stages:
        return version
    return take_up(programme, document, by)
