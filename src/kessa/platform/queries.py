"""Memberships and audit entries in the words of the field."""

from typing import Any, Self

from kessa.platform.scoping import ProgrammeQuerySet

BESIDE_THE_NAME = (
    "password", "last_login", "is_superuser", "first_name", "last_name", "email", "is_staff",
    "is_active", "date_joined", "name_key", "pseudonymised_at",
)  # fmt: skip
"""Columns of a person that a page does not read which only names them."""


def beside_the_names(*people: str) -> list[str]:
    """For defer(): what is not read of related *people* of whom only the names are shown."""
    return [f"{person}__{column}" for person in people for column in BESIDE_THE_NAME]


class MembershipQuery(ProgrammeQuerySet):
    """for_person(person).active().in_programme(slug)"""

    scope_columns = ("programme_id", "person_id")

    def for_person(self, person: Any) -> Self:
        return self.filter(person=person).select_related("programme")

    def active(self) -> Self:
        """Those that have not ended."""
        return self.filter(ended_at=None)

    def working_in(self, programme: Any) -> Self:
        """The members of a programme who do tests."""
        testers = self.filter(programme=programme).exclude(role="viewer")
        return testers.active().select_related("person").order_by("person__username")


class AuditQuery(ProgrammeQuerySet):
    """of(programme).on("result:12").newest_first()"""

    def on(self, *about: str) -> Self:
        return self.filter(about__in=about)

    def newest_first(self) -> Self:
        return self.select_related("person").order_by("-number")

    def read_by_people(self) -> Self:
        """Without each sending of actions, of which there are many."""
        return self.exclude(act="acts.kept")

    def oldest_first(self) -> Self:
        return self.order_by("number")

    def older_than(self, number: int) -> Self:
        """What comes after this number in newest_first()."""
        return self.filter(number__lt=number)

    def newer_than(self, number: int) -> Self:
        """What comes before this number in newest_first()."""
        return self.filter(number__gt=number)
