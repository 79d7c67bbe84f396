"""A person who leaves for good: the name goes, the work stays."""

from django.db import transaction

from kessa.people.device_tokens import revoke_all
from kessa.people.devices import end_all
from kessa.people.models import ResetCode
from kessa.people.passwords import answers_for
from kessa.people.two_factor import forget_devices
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership, Person
from kessa.platform.revisions import revise_membership


@transaction.atomic
def pseudonymise(person: Person, by: Person) -> None:
    """Replace name and sign-in of somebody who belongs to no programme any more.

    Raises ActionNotAllowed while a membership stands, or when *by* is neither the person nor the
    manager of every programme the person belonged to. Text that people typed is not searched.
    """
    held = Person.objects.select_for_update().get(pk=person.pk)
    if Membership.objects.for_person(held).active().exists():
        raise ActionNotAllowed("End all memberships first, then remove the name.")
    if by.pk != held.pk and not answers_for(by, held):
        raise ActionNotAllowed(f"{held} also belonged to a programme you do not manage.")
    if held.pseudonymised_at:
        return
    held.username, held.shown_name = f"former-{held.pk}", f"Former member {held.pk}"
    held.first_name = held.last_name = held.email = ""
    held.set_unusable_password()
    held.is_active, held.pseudonymised_at, held.name_key = False, clock.now(), ""
    held.save()
    end_all(held)
    forget_devices(held)
    revoke_all(held)
    ResetCode.objects.filter(person=held, used_at=None).update(used_at=clock.now())
    for membership in Membership.objects.for_person(held):
        actor = None if by.pk == held.pk else by
        seals = [revise_membership(membership, actor)]
        record(membership.programme, actor, "member.pseudonymised", membership, seals=seals)
