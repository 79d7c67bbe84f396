"""What the determinations of one bottle, lot, instrument and portion share."""

from dataclasses import dataclass

import numpy as np

from kessa_core.readings.reader import Reader


@dataclass(frozen=True)
class Bottle:
    """z: how far what is shared lies off its middle, in sd; need: the even shift, in steps."""

    z: float
    need: float


def draw_bottle(reader: Reader, rng: np.random.Generator) -> Bottle:
    """A bottle as the stage's influences allow."""
    return Bottle(float(rng.normal()), float(rng.uniform(*reader.spread.offset)))
