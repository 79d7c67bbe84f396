"""The line of a visit as a drawing: what hands did and will do above it, waits below."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from datetime import datetime

from kessa.flows.visit_plan import TestUnderWay, VisitPlan
from kessa_core.runs.events import with_offsets

WIDTH = 100.0
"""Per cent of the line."""
LEAST = 0.4
PAUSE_S = 75
"""Acts of a test that lie further apart than this were not one piece of work."""
LANE, LANES = 9, 4
"""Height of a row of waits, and how many there are; further waits share the last."""


@dataclass(frozen=True)
class Block:
    """A stretch of the line: where, how wide, what of. look: done, now, next or wait; lane: of a
    wait, its row."""

    x: float
    width: float
    look: str
    name: str
    words: str
    lane: int = 0

    @property
    def y(self) -> int:
        """Where a wait stands."""
        return 34 + LANE * self.lane

    @property
    def fits(self) -> bool:
        """Whether its name can be read on it."""
        return self.width >= 0.65 * len(self.name) + 1

    @property
    def middle(self) -> float:
        return self.x + self.width / 2


@dataclass(frozen=True)
class Line:
    """blocks of hands and of waits; needle: where now is; begun, over: its ends; is_over: all tests
    have ended, so that now lies behind it."""

    hands: tuple[Block, ...]
    waits: tuple[Block, ...]
    needle: float
    now: datetime
    begun: datetime
    over: datetime
    is_over: bool

    @property
    def ends(self) -> str:
        """What is said before the time of its end."""
        return "ended" if self.is_over else "over at about"

    @property
    def height(self) -> int:
        """As high as its waits need."""
        lanes = max((one.lane for one in self.waits), default=0)
        return 44 + LANE * (lanes + 1)


def line_of(plan: VisitPlan, at: datetime) -> Line:
    """From the first act to the end that is planned."""
    now = at.timestamp()
    done = [piece for test in plan.tests for piece in _worked(test)]
    is_over = bool(done) and not plan.under_way
    last = max((end for _, _, end in done), default=now)
    begin = min([start for _, start, _ in done] + ([] if is_over else [now - 60]))
    finish = max(last, begin + 60) if is_over else max(plan.over_at, now + 60)

    def x(moment: float) -> float:
        return round(WIDTH * (min(max(moment, begin), finish) - begin) / (finish - begin), 2)

    def block(name: str, start: float, end: float, look: str, lane: int = 0) -> Block:
        left = x(start)
        words = f"{name}, {_clock(start, at)} to {_clock(end, at)}"
        return Block(left, max(round(x(end) - left - 0.2, 2), LEAST), look, name, words, lane)

    hands = [block(test.short, start, end, "done") for test, start, end in done]
    waits, lanes = [], [0.0] * LANES
    at_once = [plan.next_of(person) for person in range(1, plan.people + 1)]
    for one in plan.phases:
        if one.hands:
            present = one in at_once and one.start <= now + 5
            name = one.test.short if plan.people == 1 else f"{one.person}: {one.test.short}"
            hands.append(block(name, one.start, one.end, "now" if present else "next"))
            continue
        lane = next((n for n, until in enumerate(lanes) if until <= one.start), LANES - 1)
        lanes[lane] = one.end
        waits.append(block(one.test.short, one.start, one.end, "wait", lane))
    begun = datetime.fromtimestamp(begin, at.tzinfo)
    over = datetime.fromtimestamp(last if is_over else plan.over_at, at.tzinfo)
    return Line(tuple(hands), tuple(waits), x(now), at, begun, over, is_over)


def _worked(test: TestUnderWay) -> Iterator[tuple[TestUnderWay, float, float]]:
    """When somebody was at this test: acts that follow each other closely."""
    made = with_offsets(test.events)
    times = sorted(event.true_when.timestamp() for event in made if event.act != "begin")
    for piece in _close(times):
        yield test, piece[0] - 5, piece[-1]


def _close(times: Sequence[float]) -> Iterator[list[float]]:
    piece: list[float] = []
    for moment in times:
        if piece and moment - piece[-1] > PAUSE_S:
            yield piece
            piece = []
        piece.append(moment)
    if piece:
        yield piece


def _clock(moment: float, at: datetime) -> str:
    return f"{datetime.fromtimestamp(moment, at.tzinfo):%H:%M}"
