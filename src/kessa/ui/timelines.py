"""The clocks of a method on a line, as a drawing: hands above, waits below."""

from collections.abc import Sequence
from dataclasses import dataclass

from kessa_core.describing import Piece
from kessa_core.methods.steps import duration_words

WIDTH = 1000.0
LEAST = 16.0
"""So wide is the shortest piece."""
LONGEST_SHARE = 0.85
"""A wait takes no more of the line than this; a longer one is drawn broken."""


LOOKS = {"hands": "hands", "wait": "waits", "attended": "attended"}


@dataclass(frozen=True)
class Segment:
    """A piece on the line: where it begins and how wide it is. number: of a wait, as the list
    under the line names it."""

    piece: Piece
    x: float
    width: float
    broken: bool
    number: int

    @property
    def look(self) -> str:
        """How its piece is drawn."""
        return "dark" if self.piece.dark else LOOKS[self.piece.kind]

    @property
    def middle(self) -> float:
        """Where its number stands."""
        return self.x + self.width / 2

    @property
    def duration(self) -> str:
        """How long it is planned with."""
        return duration_words(self.piece.seconds) if self.piece.seconds else ""


@dataclass(frozen=True)
class Timeline:
    """The segments in order; hands and waits: how long each takes in all, in words."""

    segments: tuple[Segment, ...]
    hands: str
    waits: str

    @property
    def is_broken(self) -> bool:
        """Whether a wait is longer than it is drawn."""
        return any(one.broken for one in self.segments)

    @property
    def clocks(self) -> list[Segment]:
        """The waits alone."""
        return [one for one in self.segments if one.number]


def drawn_timeline(pieces: Sequence[Piece]) -> Timeline:
    """*pieces* along the whole width."""
    hands = sum(one.seconds for one in pieces if one.kind == "hands")
    waits = sum(one.seconds for one in pieces if one.kind != "hands")
    most = _longest(pieces)
    shown = [one.seconds if one.kind == "hands" else min(one.seconds, most) for one in pieces]
    free = WIDTH - LEAST * len(pieces)
    total = sum(shown) or 1.0
    segments, x, number = [], 0.0, 0
    for one, seconds in zip(pieces, shown, strict=True):
        width = LEAST + free * seconds / total
        number += one.kind != "hands"
        broken = one.kind != "hands" and one.seconds > most
        at = number if one.kind != "hands" else 0
        segments.append(Segment(one, round(x, 1), round(width, 1), broken, at))
        x += width
    return Timeline(tuple(segments), duration_words(hands), duration_words(waits) if waits else "")


def _longest(pieces: Sequence[Piece]) -> float:
    """The seconds up to which a wait is drawn to scale."""
    waits = [one.seconds for one in pieces if one.kind != "hands"]
    others = sum(one.seconds for one in pieces) - max(waits, default=0)
    return max(others * LONGEST_SHARE / (1 - LONGEST_SHARE), 60.0)
