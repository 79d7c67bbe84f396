"""A picture as it arrived -> a picture as it is kept: encoded again, upright, without what the
camera wrote beside it (position, device, name)."""

import io
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from kessa.platform.errors import ActionNotAllowed

LONGEST_SIDE = 2000
MOST_PIXELS = 40_000_000
QUALITY = 88
READABLE = ("JPEG", "PNG", "WEBP")
NO_PICTURE = "This is not a photograph that can be read (JPEG, PNG or WebP)."


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: a JPEG file, and its size in pixels."""

    file: bytes
    width: int
    height: int


def encode_again(given: bytes) -> Picture:
    """The picture in *given*, to be kept.

    Raises ActionNotAllowed where it is none, or larger than any camera's.
    """
    try:
        with Image.open(io.BytesIO(given), formats=READABLE) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                raise ActionNotAllowed("This photograph is too large.")
            upright = ImageOps.exif_transpose(opened).convert("RGB")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError):
        raise ActionNotAllowed(NO_PICTURE) from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    plain = Image.new("RGB", upright.size)
    plain.paste(upright)
    written = io.BytesIO()
    plain.save(written, "JPEG", quality=QUALITY)
    return Picture(written.getvalue(), *plain.size)
