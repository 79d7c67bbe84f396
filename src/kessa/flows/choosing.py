"""The list of tests as a person sees it."""

from kessa.library.favourites import favourites_of
from kessa.library.test_choices import Grouping, TestGroup, test_groups
from kessa.platform.models import Person, Programme
from kessa.runs.models import Run

RECENT = 4


def tests_to_choose(
    programme: Programme, person: Person, by: Grouping = Grouping.PARAMETER
) -> list[TestGroup]:
    """This person's favourites and recent tests lead, then those used most in the programme."""
    recent = Run.objects.of(programme).last_methods_of(person, RECENT)
    return test_groups(programme, favourites_of(programme, person), recent, by)
