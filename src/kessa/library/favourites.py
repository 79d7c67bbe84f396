"""The tests that a person wants at the top of the list."""

from django.db import transaction

from kessa.library.models import FavouriteTest, MethodVersion
from kessa.platform.models import Person, Programme
from kessa_core.methods.catalogue import shipped_ids


def favourites_of(programme: Programme, person: Person) -> set[str]:
    """The ids of the methods that this person marked."""
    marked = FavouriteTest.objects.of(programme).filter(person=person)
    return set(marked.values_list("method_id", flat=True))


@transaction.atomic
def set_favourite(programme: Programme, person: Person, method_id: str, *, marked: bool) -> bool:
    """Mark or unmark a test; whether there is such a test."""
    used = MethodVersion.objects.of(programme).filter(method_id=method_id)
    if method_id not in shipped_ids() and not used.exists():
        return False
    if marked:
        FavouriteTest.objects.get_or_create(programme=programme, person=person, method_id=method_id)
    else:
        own = FavouriteTest.objects.of(programme).filter(person=person, method_id=method_id)
        own.delete()
    return True
