"""Taking up a method document."""

from kessa.accounts.models import Programme
from kessa.library.models import MethodVersion
from kessa_core.methods import load


def take_up(programme: Programme, document: str) -> MethodVersion:
    """Keep *document* as a version the programme uses; the same version again changes nothing.

    Raises BadDocument as kessa_core.methods.load.
    """
    method = load(document)
    version, _ = MethodVersion.objects.get_or_create(
        programme=programme,
        method_id=method.id,
        version=method.version,
        defaults={"hash": method.hash, "title": method.title, "document": document},
    )
    return version
