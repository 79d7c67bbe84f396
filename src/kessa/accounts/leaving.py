"""A person who leaves for good: the name goes, the work stays."""

from django.db import transaction
from django.utils import timezone

from kessa.accounts.devices import end_all
from kessa.accounts.members import Refusal
from kessa.accounts.models import Membership, Person, ResetCode
from kessa.accounts.passwords import answers_for
from kessa.accounts.second_step import forget_devices
from kessa.records.services import record


@transaction.atomic
def pseudonymise(person: Person, by: Person) -> None:
    """Replace name and sign-in of somebody who belongs to no programme any more.

    Raises Refusal while a membership stands, or when *by* is neither the person nor the manager of
    every programme the person belonged to. Text that people typed is not searched.
    """
    held = Person.objects.select_for_update().get(pk=person.pk)
    if Membership.objects.of(held).standing().exists():
        raise Refusal("End the memberships first; the name can go when nothing stands any more.")
    if by.pk != held.pk and not answers_for(by, held):
        raise Refusal(f"{held} also belonged to a programme you do not manage.")
    if held.pseudonymised_at:
        return
    held.username, held.shown_name = f"former-{held.pk}", f"Former member {held.pk}"
    held.first_name = held.last_name = held.email = ""
    held.set_unusable_password()
    held.is_active, held.pseudonymised_at = False, timezone.now()
    held.save()
    end_all(held)
    forget_devices(held)
    held.capabilities.filter(revoked_at=None).update(revoked_at=timezone.now())
    ResetCode.objects.filter(person=held, used_at=None).update(used_at=timezone.now())
    for membership in Membership.objects.of(held):
        actor = None if by.pk == held.pk else by
        record(membership.programme, actor, "member.pseudonymised", membership)
