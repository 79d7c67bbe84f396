"""Requests as views get them: with the person who is signed in, and the programme they work in."""

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from kessa.platform.models import Membership, Person, Programme


class SignedInRequest(HttpRequest):
    """A request of somebody who is signed in (permissions.signed_in)."""

    user: Person  # the decorator lets nobody else in
    htmx: HtmxDetails


class ProgrammeRequest(SignedInRequest):
    """A request within a programme, of one of its members (permissions.needs).

    programme_count: to how many programmes the person belongs.
    """

    membership: Membership
    programme: Programme
    role: str
    programme_count: int
