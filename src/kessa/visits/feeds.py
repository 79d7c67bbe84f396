"""Calendar feeds: who may read the days of a programme's sets without signing in."""

import secrets

from django.db import transaction

from kessa.people.device_tokens import token_hash
from kessa.platform import clock
from kessa.platform.audit import record
from kessa.platform.models import Membership, Person, Programme
from kessa.visits.models import CalendarFeed


@transaction.atomic
def allow_feed(programme: Programme, person: Person) -> str:
    """A fresh token for this person; an older one ends."""
    withdraw_feed(programme, person)
    token = secrets.token_urlsafe(24)
    made = CalendarFeed.objects.create(programme=programme, person=person, hash=token_hash(token))
    record(programme, person, "calendar.allowed", made)
    return token


@transaction.atomic
def withdraw_feed(programme: Programme, person: Person) -> None:
    """This person's feed is read no more."""
    for feed in CalendarFeed.objects.of(programme).for_person(person).active():
        feed.revoked_at = clock.now()
        feed.save(update_fields=["revoked_at"])
        record(programme, person, "calendar.revoked", feed)


def feed_of_token(token: str) -> CalendarFeed | None:
    """The active feed of a token, of somebody who is still a member."""
    found = CalendarFeed.objects.active().select_related("programme", "person")
    feed: CalendarFeed | None = found.filter(hash=token_hash(token)).first()
    if feed is None or not feed.person.is_active:
        return None
    members = Membership.objects.for_person(feed.person).active()
    if not members.filter(programme=feed.programme).exists():
        return None
    feed.used_at = clock.now()
    feed.save(update_fields=["used_at"])
    return feed
