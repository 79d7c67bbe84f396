"""A row's history as a small line: coordinates only."""

from collections.abc import Sequence
from dataclasses import dataclass

WIDTH, HEIGHT, EDGE = 92.0, 24.0, 3.0
FEWEST = 3


@dataclass(frozen=True)
class Spark:
    """A line through the newest results, and the place of the last one."""

    points: str
    x: float
    y: float


def spark(numbers: Sequence[float]) -> Spark | None:
    """The line of *numbers*, the oldest first; None with fewer than three of them."""
    if len(numbers) < FEWEST:
        return None
    low, high = min(numbers), max(numbers)
    across = (WIDTH - 2 * EDGE) / (len(numbers) - 1)
    up = (HEIGHT - 2 * EDGE) / (high - low) if high > low else 0.0
    places = [
        (EDGE + across * place, HEIGHT - EDGE - (number - low) * up)
        for place, number in enumerate(numbers)
    ]
    x, y = places[-1]
    return Spark(" ".join(f"{left:.1f},{top:.1f}" for left, top in places), x, y)
