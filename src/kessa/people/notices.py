"""Changes of how somebody signs in: noted when they happen, told at the next sign-in."""

from django.contrib import messages
from django.http import HttpRequest

from kessa.people.agents import device_of
from kessa.people.models import CredentialChange
from kessa.platform import clock
from kessa.platform.days import moment_text
from kessa.platform.models import Person
from kessa.platform.security_log import note

What = CredentialChange.What
EVENTS = {
    What.PASSWORD: "password changed",
    What.RESET: "password set with a code",
    What.CODES_ON: "codes turned on",
    What.CODES_OFF: "codes turned off",
}


def note_change(request: HttpRequest, person: Person, what: CredentialChange.What) -> None:
    """Something about the sign-in of *person* was changed by this request."""
    CredentialChange.objects.create(person=person, what=what, device=device_of(request)[:80])
    note(EVENTS[what], person)


def tell_changes(request: HttpRequest, person: Person) -> None:
    """Say on the next page what was changed since this person was last told."""
    for change in person.credential_changes.filter(seen_at=None):
        messages.warning(request, words(change))
    person.credential_changes.filter(seen_at=None).update(seen_at=clock.now())


def words(change: CredentialChange) -> str:
    """What was changed, when, where, and what to do if that was somebody else."""
    at = moment_text(change.at)
    where = f" ({change.device})" if change.device else ""
    return f"{change.get_what_display()} on {at}{where}. If that was not you, tell a manager now."
