"""What the determinations of one bottle, lot and portion share."""

from dataclasses import dataclass

import numpy as np

from kessa_core.readings.dropcount import DropModel


@dataclass(frozen=True)
class Bottle:
    """scale: how strong its drops are against the nominal ones; need: drops the colour takes."""

    scale: float
    need: float


def draw_bottle(model: DropModel, rng: np.random.Generator) -> Bottle:
    """A bottle as the method's influences allow."""
    spread = model.spread
    scale = float(np.exp(rng.normal(0, spread.shared))) if spread.shared else 1.0
    return Bottle(scale, float(rng.uniform(spread.need_low, spread.need_high)))
