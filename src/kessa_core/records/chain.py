"""The audit chain: each entry carries the SHA-256 of the one before and its own.

The seal of an entry is the hash of its canonical JSON (keys sorted, no spaces, UTF-8) without the
field `hash`. An entry that was changed no longer fits its own seal; one that is missing leaves a
gap in the numbers, or, at the end, a chain shorter than its head says.
"""

import hashlib
import json
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import asdict, dataclass
from typing import Any

from kessa_core.errors import BadEvent

START = ""
"""What the first entry of a chain carries as the hash before it."""


@dataclass(frozen=True)
class Entry:
    """One line of the audit. at: ISO 8601 in UTC. person: a number, never a name; 0 is Kessa.

    act: what was done, such as "result.reviewed". about: to what, such as "result:12".
    """

    chain: str
    number: int
    at: str
    person: int
    act: str
    about: str
    data: Mapping[str, Any]
    before: str
    hash: str = ""


@dataclass(frozen=True)
class Break:
    """Where a chain does not hold, in words."""

    number: int
    what: str


def sha(content: object) -> str:
    """SHA-256 (hex) of *content* as canonical JSON."""
    text = json.dumps(content, sort_keys=True, separators=(",", ":"), ensure_ascii=False)
    return hashlib.sha256(text.encode()).hexdigest()


def seal(entry: Entry) -> str:
    """The hash that *entry* must carry."""
    fields = asdict(entry)
    fields.pop("hash")
    return sha(fields)


def check(entries: Iterable[Entry], head: tuple[int, str] | None = None) -> Iterator[Break]:
    """Every place where *entries*, in order, do not hold together.

    head: number and hash of the last entry, known from elsewhere; it shows a cut at the end.
    """
    number, before = 0, START
    for entry in entries:
        if entry.number != number + 1:
            yield Break(entry.number, _gap(number, entry.number))
        elif entry.before != before:
            yield Break(entry.number, "does not follow from the entry before it")
        if seal(entry) != entry.hash:
            yield Break(entry.number, f"was changed: {entry.act} of {entry.about}")
        number, before = entry.number, entry.hash
    if head and head[0] > number:
        yield Break(head[0], _gap(number, head[0] + 1))
    elif head and head != (number, before):
        yield Break(number, "is not what the head of the chain says")


def _gap(last: int, following: int) -> str:
    missing = following - last - 1
    if missing < 1:
        return f"stands after number {last}"
    if missing == 1:
        return f"number {last + 1} is missing"
    return f"numbers {last + 1} to {following - 1} are missing"


def read(lines: Iterable[str]) -> Iterator[Entry]:
    """The entries of an exported audit, a JSON object a line.

    Raises BadEvent with the line's number where one cannot be read.
    """
    for number, line in enumerate(lines, 1):
        if not line.strip():
            continue
        try:
            yield Entry(**json.loads(line))
        except (ValueError, TypeError):
            raise BadEvent(f"Line {number} is not an entry of an audit.") from None
