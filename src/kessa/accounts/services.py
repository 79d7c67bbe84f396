"""Beginning a programme with its first manager."""

from django.contrib.auth.password_validation import validate_password
from django.db import transaction

from kessa.accounts.models import Membership, Person, Programme, Role


@transaction.atomic
def begin_programme(name: str, slug: str, timezone: str, username: str, password: str) -> Programme:
    """A new programme and the person who manages it.

    Raises ValidationError for a password the validators refuse, IntegrityError for a slug or a
    name of a person that exists.
    """
    person = Person(username=username)
    validate_password(password, person)
    person.set_password(password)
    person.save()
    programme = Programme.objects.create(name=name, slug=slug, timezone=timezone)
    Membership.objects.create(programme=programme, person=person, role=Role.MANAGER)
    return programme
