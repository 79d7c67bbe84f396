"""Looking along a scale for the places where something turns, without looking at each."""

from collections.abc import Callable, Iterable
from itertools import pairwise
from typing import TypeVar

T = TypeVar("T")


def probes(first: int, last: int, most: int) -> list[int]:
    """At most *most* places along a scale, its ends among them; every place of a short one."""
    steps = min(most - 1, last - first) or 1
    return sorted({round(first + (last - first) * i / steps) for i in range(steps + 1)})


def explored(at: Callable[[int], T], places: Iterable[int]) -> dict[int, T]:
    """What *at* says of these places, and of others between those that differ, until where it turns
    lies between neighbours; by place, the lowest first."""
    found = {place: at(place) for place in places}

    def narrow(low: int, high: int) -> None:
        if found[low] == found[high] or high - low <= 1:
            return
        middle = (low + high) // 2
        found.setdefault(middle, at(middle))
        narrow(low, middle)
        narrow(middle, high)

    for low, high in pairwise(sorted(found)):
        narrow(low, high)
    return dict(sorted(found.items()))
