"""What every act carries that was made on a device: its name, its device, and when it was made."""

import re
from collections.abc import Mapping
from datetime import datetime, timedelta
from typing import Any

from kessa_core.errors import BadEvent

CLOCK_OFF_MS = 60_000
"""From here on a device's times are corrected; below, an offset is as much the network's."""
MOST_OFF_MS = 100 * 366 * 24 * 3600 * 1000
_ID = re.compile(r"^[0-9a-zA-Z][0-9a-zA-Z-]{7,63}$")


class MadeOnDevice:
    """When an act was made. at: the device's wall time with its offset (ISO 8601); offset_ms:
    server minus device, when it was known."""

    at: str
    offset_ms: int | None

    @property
    def when(self) -> datetime:
        return datetime.fromisoformat(self.at)

    @property
    def clock_is_off(self) -> bool:
        """Whether the device's clock is known to be a minute or more from the server's."""
        return abs(self.offset_ms or 0) >= CLOCK_OFF_MS

    @property
    def true_at(self) -> str:
        """When it was made, by the server's clock where the device's is known to be off."""
        if not self.clock_is_off:
            return self.at
        return self.true_when.isoformat(timespec="milliseconds")

    @property
    def true_when(self) -> datetime:
        """The same as a moment."""
        late = timedelta(milliseconds=self.offset_ms or 0) if self.clock_is_off else timedelta()
        return self.when + late


def storable(text: str) -> bool:
    """Whether every store can hold this text."""
    return "\x00" not in text and not any("\ud800" <= letter <= "\udfff" for letter in text)


def is_identifier(text: str) -> bool:
    """Whether *text* may name an event, a run, a device or a page."""
    return bool(_ID.fullmatch(text))


def identifier(raw: Mapping[str, Any], name: str) -> str:
    """A name made on a device. Raises BadEvent."""
    value = raw.get(name)
    if not isinstance(value, str) or not is_identifier(value):
        raise BadEvent(f"{name} must be 8 to 64 letters, digits or hyphens.", field=name)
    return value


def whole(value: object, name: str) -> int:
    """A whole number from 0 on. Raises BadEvent."""
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value < 2**53:
        raise BadEvent(f"{name} must be a whole number, not negative.", field=name)
    return value


def number(value: object, name: str) -> float:
    """A number of ordinary size. Raises BadEvent."""
    if isinstance(value, bool) or not isinstance(value, int | float) or not abs(value) < 1e15:
        raise BadEvent(f"{name} must be a number.", field=name)
    return float(value)


def offset(value: object) -> int:
    """Server minus device, in ms; a century at most, so that a corrected time is still a time.
    Raises BadEvent."""
    found = int(number(value, "offset_ms"))
    if abs(found) > MOST_OFF_MS:
        raise BadEvent("offset_ms lies further off than any clock.", field="offset_ms")
    return found


def moment(value: object) -> str:
    """A moment with its offset to UTC, as text. Raises BadEvent."""
    remedy = "Use ISO 8601, such as 2026-11-24T10:16:02.500+00:00."
    try:
        found = datetime.fromisoformat(str(value)[:40])
    except ValueError:
        raise BadEvent("at is not a date and time.", field="at", remedy=remedy) from None
    if not 2000 <= found.year <= 2199:
        raise BadEvent("at lies outside the years 2000 to 2199.", field="at", remedy=remedy)
    if found.tzinfo is None:
        raise BadEvent("at has no offset to UTC.", field="at", remedy=remedy)
    return str(value)[:40]
