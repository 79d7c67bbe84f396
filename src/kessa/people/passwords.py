"""A forgotten password: a manager makes a code, the person sets a new one with it."""

from datetime import timedelta

from django.contrib.auth.password_validation import validate_password
from django.db import transaction

from kessa.people import codes
from kessa.people.device_tokens import revoke_all
from kessa.people.devices import end_all
from kessa.people.models import ResetCode
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership, Person, Programme, Role

CODE_LASTS = timedelta(hours=24)


def answers_for(manager: Person, person: Person) -> bool:
    """Whether *manager* manages every programme *person* belongs to or ever belonged to.

    A code opens the whole account, so one programme's manager must not reach into another's.
    """
    managed = Membership.objects.for_person(manager).active().filter(role=Role.MANAGER)
    every = Membership.objects.for_person(person)
    return not every.exclude(programme__in=managed.values("programme")).exists()


@transaction.atomic
def make_code(programme: Programme, by: Person, membership: Membership) -> str:
    """A code for a member who has forgotten the password; shown this once.

    Raises ActionNotAllowed when the person belongs to programmes that the manager does not manage.
    """
    person = membership.person
    if not answers_for(by, person):
        raise ActionNotAllowed(
            f"{person} also belongs to a programme you do not manage. "
            "The person who runs this server sets the password."
        )
    code = codes.make()
    ResetCode.objects.filter(person=person, used_at=None).update(used_at=clock.now())
    expires = clock.now() + CODE_LASTS
    ResetCode.objects.create(
        person=person, hash=codes.hash_of(code), made_by=by, expires_at=expires
    )
    record(programme, by, "member.reset", membership)
    return code


@transaction.atomic
def use_code(username: str, code: str, password: str) -> Person:
    """Set a new password; every device is signed out.

    Raises ActionNotAllowed when name and code do not fit together, or the person belongs meanwhile
    to a programme that who made the code does not manage; ValidationError for a weak password.
    """
    found = (
        ResetCode.objects.select_for_update(of=("self",))
        .select_related("person")
        .filter(hash=codes.hash_of(code), used_at=None, expires_at__gt=clock.now())
        .first()
    )
    if (
        found is None
        or found.person.username != username
        or not found.person.is_active
        or not answers_for(found.made_by, found.person)
    ):
        raise ActionNotAllowed(
            "The name or code is wrong, or the code has expired. Ask a manager for a new code."
        )
    person: Person = found.person
    validate_password(password, person)
    person.set_password(password)
    person.save(update_fields=["password"])
    found.used_at = clock.now()
    found.save(update_fields=["used_at"])
    end_all(person)
    revoke_all(person)
    return person
