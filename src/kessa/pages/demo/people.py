"""The demo's accounts: one a role, all invented."""

from django.utils import timezone

from kessa.platform.audit import record
from kessa.platform.models import Membership, Person, Programme, Role
from kessa.platform.revisions import revise_membership

PASSWORD = "quill-brook-kettle"  # noqa: S105 - printed at every start of the demo
PEOPLE = (
    ("viewer", "Orla Finch", Role.VIEWER),
    ("monitor", "Tam Wetherill", Role.MONITOR),
    ("reviewer", "Ines Harrow", Role.REVIEWER),
    ("manager", "Bram Oakes", Role.MANAGER),
)


def make(programme: Programme) -> dict[str, Person]:
    """The four people with their roles."""
    made = {}
    for username, shown, role in PEOPLE:
        person, fresh = Person.objects.get_or_create(
            username=username, defaults={"shown_name": shown}
        )
        if fresh:
            person.set_password(PASSWORD)
            person.save(update_fields=["password"])
        membership, joined = Membership.objects.get_or_create(
            programme=programme, person=person, defaults={"role": role, "since": timezone.now()}
        )
        if joined:
            seals = [revise_membership(membership, person)]
            record(programme, person, "member.joined", membership, role=role, seals=seals)
        made[username] = person
    return made
