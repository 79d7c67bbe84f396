"""Beginning a programme, and its settings."""

from zoneinfo import available_timezones

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils.text import slugify

from kessa.platform.adopting import SEALING
from kessa.platform.audit import record
from kessa.platform.models import Membership, Person, Programme, Role
from kessa.platform.revisions import revise_membership, revise_programme


@transaction.atomic
def begin_programme(name: str, slug: str, timezone: str, username: str, password: str) -> Programme:
    """A new programme and the new person who manages it.

    Raises ValidationError for a password the validators refuse, IntegrityError for a slug or a
    name of a person that exists.
    """
    return found(name, slug, timezone, make_person(username, password))


def make_person(username: str, password: str, shown_name: str = "") -> Person:
    """A new account. Raises ValidationError for a name that is taken or a weak password."""
    person = Person(username=username, shown_name=shown_name)
    person.full_clean(exclude=["password"])
    validate_password(password, person)
    person.set_password(password)
    person.save()
    return person


@transaction.atomic
def rename(person: Person, shown_name: str) -> None:
    """Another name on results, from now on and on those of before; entered wherever the person
    belonged."""
    person.shown_name = shown_name
    person.save(update_fields=["shown_name"])
    for membership in Membership.objects.for_person(person).select_related("programme"):
        membership.person = person
        seals = [revise_membership(membership, person)]
        record(membership.programme, person, "member.renamed", membership, seals=seals)


@transaction.atomic
def found(name: str, slug: str, timezone: str, person: Person) -> Programme:
    """A new programme, managed by *person*."""
    if timezone not in available_timezones():
        raise ValidationError({"timezone": "Choose a time zone from the list."})
    programme = Programme.objects.create(name=name, slug=slug, timezone=timezone)
    manager = Membership.objects.create(programme=programme, person=person, role=Role.MANAGER)
    seals = [revise_programme(programme, person), revise_membership(manager, person)]
    said = {"name": name, "sealing": SEALING, "seals": seals}
    record(programme, person, "programme.begun", programme, **said)
    return programme


def free_slug(name: str) -> str:
    """A name for addresses that no programme has yet."""
    wanted = slugify(name)[:40] or "programme"
    slug, number = wanted, 1
    while Programme.objects.filter(slug=slug).exists():
        number += 1
        slug = f"{wanted}-{number}"
    return slug


@transaction.atomic
def change_settings(programme: Programme, by: Person, **values: object) -> None:
    """Name, time zone, own review."""
    was = {name: getattr(programme, name) for name in values}
    for name, value in values.items():
        setattr(programme, name, value)
    programme.save(update_fields=list(values))
    if was != values:
        said = {"before": was, "after": values, "seals": [revise_programme(programme, by)]}
        record(programme, by, "programme.changed", programme, **said)
