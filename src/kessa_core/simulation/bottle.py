"""What the determinations of one bottle, lot, instrument and portion share."""

from dataclasses import dataclass

import numpy as np

from kessa_core.readings.reading_type import ReadingType


@dataclass(frozen=True)
class SharedErrors:
    """z: how far what is shared lies off its middle, in sd; need: the even shift, in steps."""

    z: float
    need: float


def draw_bottle(reader: ReadingType, rng: np.random.Generator) -> SharedErrors:
    """A bottle as the stage's influences allow."""
    return SharedErrors(float(rng.normal()), float(rng.uniform(*reader.spread.offset)))
