"""Whether the file of every photograph is there as it was kept."""

import hashlib
from collections.abc import Iterator

from kessa.photos.models import Photograph
from kessa.platform.models import Programme
from kessa_core.records import Break


def missing(programme: Programme) -> Iterator[Break]:
    """Photographs whose file is gone or was changed."""
    for photograph in Photograph._base_manager.filter(programme=programme).iterator():
        name = f"photograph:{photograph.pk}"
        try:
            found = hashlib.sha256(photograph.path.read_bytes()).hexdigest()
        except OSError:
            yield Break(0, f"{name}: its file is not there")
            continue
        if found != photograph.stored:
            yield Break(0, f"{name}: its file is not the one that was kept")
