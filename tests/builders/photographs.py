"""Photographs as a camera makes them, and tests whose reading was photographed."""

import hashlib
import io

from PIL import Image

from kessa.flows.receiving import keep
from kessa.photos.services import keep_photograph
from kessa.runs.models import PhotoReading
from tests.builders.people import Room
from tests.builders.runs import Taps

POSITION, MAKE = 0x8825, 0x010F
NITRATE = "nitrate-comparator"


def picture(width: int = 320, height: int = 240, kind: str = "JPEG") -> bytes:
    """A picture whose camera wrote where it was."""
    made = Image.linear_gradient("L").resize((width, height)).convert("RGB")
    exif = Image.Exif()
    exif[MAKE] = "Undine Hollow"
    exif.get_ifd(POSITION)[1] = "N"
    written = io.BytesIO()
    made.save(written, kind, exif=exif)
    return written.getvalue()


def key_of(file: bytes) -> str:
    """By which an act names it."""
    return hashlib.sha256(file).hexdigest()


def photographed_test(room: Room, *, twice: bool = False, sent: bool = True) -> PhotoReading:
    """A test of the monitor's whose colour was photographed to be read later. sent: the picture is
    at the server."""
    file = picture()
    run = room.new_run(method=NITRATE)
    taps = Taps(run.method, run=str(run.pk)).before().photograph(key_of(file), twice=twice)
    keep(room.programme, room.monitor, [event.as_json() for event in taps.events])
    if sent:
        keep_photograph(room.programme, room.monitor, key_of(file), file)
    return PhotoReading.objects.of(room.programme).get(run=run)
