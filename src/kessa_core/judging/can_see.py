"""Whether a method can see a limit: what each of its readings would be called."""

from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby

from kessa_core.judging.comparing import Sign
from kessa_core.judging.limits import Limit
from kessa_core.judging.verdict import WORDS, inapplicable, judge
from kessa_core.methods.stage import Stage
from kessa_core.quantities import Value
from kessa_core.quantities.rounding import span
from kessa_core.readings.exploring import explored, probes
from kessa_core.readings.reading_type import ReadingType

PROBES = 33
"""Places at which a verdict is first looked at; where it turns is then found between them."""
SEES = "sees this limit"
TOLD: tuple[Sign, ...] = ("within", "beyond")


@dataclass(frozen=True)
class Stretch:
    """Neighbouring readings that are called the same: the smallest and the largest value."""

    sign: Sign
    first: Value
    last: Value


@dataclass(frozen=True)
class Visibility:
    """What a method tells of a limit. stretches: from the smallest value to the largest."""

    limit: Limit
    stretches: tuple[Stretch, ...]

    @property
    def signs(self) -> frozenset[Sign]:
        """What its readings can be called."""
        return frozenset(stretch.sign for stretch in self.stretches)

    @property
    def words(self) -> str:
        """The answer in a few words."""
        if {"within", "beyond"} <= self.signs:
            return SEES
        if "within" in self.signs:
            return "can only show values within the limit"
        if "beyond" in self.signs:
            return "can only show values outside the limit"
        return "cannot see this limit"

    @property
    def sentence(self) -> str:
        """From which reading on it is called what."""
        told = [
            f"{WORDS[sign]} {' and '.join(ranges)}"
            for sign in TOLD
            if (ranges := self._ranges(sign))
        ]
        if not told:
            return "Every reading is too close to call."
        label = self.stretches[0].first.quantity.label
        rest = ""
        if "close" in self.signs:
            rest = ", otherwise too close to call" if self._is_plain else "; otherwise it depends"
        text = f"{'; '.join(told)} {label}{rest}."
        return text[0].upper() + text[1:]

    @property
    def _is_plain(self) -> bool:
        """Whether each sign has one stretch on each side of the limit."""
        told = [stretch for stretch in self.stretches if stretch.sign in TOLD]
        return len(told) == sum(len(self._ranges(sign)) for sign in TOLD)

    def _ranges(self, sign: Sign) -> list[str]:
        """From and to which figure every reading is called so: at the ends of the scale, or else
        the longest stretch. A reading between two marks is less sure than one at a mark, so that
        near the limit the verdict may turn more than once."""
        first, last = self.stretches[0], self.stretches[-1]
        found = [f"up to {first.last.figure}"] if first.sign == sign else []
        if last.sign == sign and last is not first:
            found.append(f"from {last.first.figure}")
        if not found and (inside := [one for one in self.stretches if one.sign == sign]):
            longest = max(inside, key=lambda one: one.last.number - one.first.number)
            ends = longest.first.figure, longest.last.figure
            found = [ends[0] if ends[0] == ends[1] else span(*ends)]
        return found


@lru_cache(maxsize=512)
def can_see(stage: Stage, limit: Limit) -> Visibility | None:
    """What *stage* tells of *limit* with the kit's own bottles, each determination it asks for read
    alike and the smallest blank subtracted; None where it reads no scale of its own, or another
    quantity."""
    reader = stage.reader()
    if not reader.has_scale or stage.reference or inapplicable(stage.measures.quantity, limit):
        return None
    looks = _Looks(stage, reader, limit)
    looks.along_the_scale()
    return Visibility(limit, tuple(_stretches(looks.outside() + list(looks.found.values()))))


class _Looks:
    """Readings of one stage, each judged against one limit when it is first asked for."""

    def __init__(self, stage: Stage, reader: ReadingType, limit: Limit) -> None:
        self.stage, self.reader, self.limit = stage, reader, limit
        self.blanks = [reader.example(reader.reach[0])] if reader.subtract else []
        self.found: dict[int, tuple[Value, Sign]] = {}

    def sign(self, place: int) -> Sign:
        """What the reading at this place is called."""
        if place not in self.found:
            alike = [self.reader.example(place)] * self.reader.asked
            self.found[place] = self._judged(self.reader.value(alike, alike, self.blanks))
        return self.found[place][1]

    def along_the_scale(self) -> None:
        """Look at places along the scale and beside the limit, and where the verdict turns."""
        first, last = self.reader.reach
        places = set(probes(first, last, PROBES))
        for bound in (self.limit.min, self.limit.max):
            if bound is not None:
                places |= self._beside(float(bound), first, last)
        explored(self.sign, places)

    def outside(self) -> list[tuple[Value, Sign]]:
        """The readings above the top and below the foot, where the scale has them."""
        return [self._judged(self.reader.bound(one, self.blanks)) for one in self.reader.outside()]

    def _judged(self, value: Value) -> tuple[Value, Sign]:
        value = value.scaled(float(self.stage.base), self.stage.base)
        return value, judge(value, self.limit).sign

    def _beside(self, bound: float, first: int, last: int) -> set[int]:
        """The two neighbouring places between whose values the bound lies."""
        low, high = first, last
        rises = self._number(low) <= self._number(high)
        while high - low > 1:
            middle = (low + high) // 2
            if (self._number(middle) < bound) == rises:
                low = middle
            else:
                high = middle
        return {low, high}

    def _number(self, place: int) -> float:
        self.sign(place)
        value = self.found[place][0]
        return value.converted(basis=self.limit.basis, unit=self.limit.unit).number


def _stretches(judged: list[tuple[Value, Sign]]) -> list[Stretch]:
    """Neighbours of one sign together; a bound lies outside a figure of the same size. Readings
    that come to one figure and are called differently stand beside those that are called alike."""
    rank = {"<": -1, "": 0, ">": 1}
    place = {id(one): (one[0].number, rank[one[0].qualifier]) for one in judged}
    ordered = sorted(judged, key=lambda one: place[id(one)])
    alike = [list(some) for _, some in groupby(ordered, key=lambda one: place[id(one)])]
    told: list[tuple[Value, Sign]] = []
    for some, following in zip(alike, [*alike[1:], []], strict=True):
        before = told[-1][1] if told else None
        after = {sign for _, sign in following}
        told += sorted(some, key=lambda one: (one[1] != before, one[1] in after))
    grouped = [list(some) for _, some in groupby(told, key=lambda one: one[1])]
    return [Stretch(some[0][1], some[0][0], some[-1][0]) for some in grouped]
