"""Keeping photographs: each once, by the hash of what its device made."""

import hashlib

from django.db import transaction

from kessa.photos.models import Photograph
from kessa.photos.pictures import encode_again
from kessa.platform.audit import record
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.hashes import seal_of
from kessa.platform.locks import lock_until_commit
from kessa.platform.models import Person, Programme


@transaction.atomic
def keep_photograph(programme: Programme, person: Person, key: str, given: bytes) -> Photograph:
    """Keep a picture under the hash that its acts name it by; sent twice, it is kept once.

    Raises ActionNotAllowed where the hash is another one, or it is no picture.
    """
    if hashlib.sha256(given).hexdigest() != key:
        raise ActionNotAllowed("The photograph arrived damaged. It is sent again.")
    lock_until_commit(f"photograph {programme.pk} {key}")
    known: Photograph | None = Photograph.objects.of(programme).filter(key=key).first()
    if known:
        return known
    picture = encode_again(given)
    made = Photograph(
        programme=programme,
        key=key,
        stored=hashlib.sha256(picture.file).hexdigest(),
        size=len(picture.file),
        width=picture.width,
        height=picture.height,
        by=person,
    )
    _write(made, picture.file)
    made.save()
    record(programme, person, "photograph.kept", made, key=key, seals=[seal_of([made])])
    return made


def _write(photograph: Photograph, file: bytes) -> None:
    """The file is there whole before its row is."""
    path = photograph.path
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_suffix(".part")
    beside.write_bytes(file)
    beside.replace(path)
