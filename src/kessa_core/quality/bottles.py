"""A bottle's own drop: measured with the titrant itself, or shown by standards; and how bottles
differ from each other.

Sources: volume of one drop by counting to a mark or by weighing (mass over density); chi-squared
test of a variance against a stated one (NIST/SEMATECH e-Handbook, 7.2.3).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import fsum, hypot, isfinite, sqrt

from scipy.special import chdtrc

from kessa_core.errors import NotANumber
from kessa_core.readings.lots import DropSize

EACH_DROP = 0.06
"""Relative sd of one drop and the next from one bottle held upright."""
MARK = 0.01
"""Relative sd of reading a 1 mL mark."""
BALANCE_G = 0.01
"""Sd of a pocket balance, g."""
DENSITY = 0.002
"""Relative sd of a density that is looked up."""
FEWEST_DROPS = 10
FEWEST_BOTTLES = 10
RARE = 0.01
"""How often bottles that are as the kit says may be named by chance."""


def drop_by_filling(drops: int, volume_ml: float = 1.0) -> DropSize:
    """The drop of a bottle of which *drops* fill *volume_ml*, the last one crossing the mark.

    The mark lies somewhere in the last drop: volume / (drops - 1/2). Raises NotANumber for fewer
    than ten drops or no volume.
    """
    if drops < FEWEST_DROPS:
        raise NotANumber(f"Count at least {FEWEST_DROPS} drops.", field="drops")
    if not volume_ml > 0 or not isfinite(volume_ml):
        raise NotANumber("The volume must be above zero.", field="volume_ml")
    counted = drops - 0.5
    sd = hypot(1 / sqrt(12) / counted, MARK, EACH_DROP / sqrt(counted))
    return DropSize(volume_ml / counted, sd)


def drop_by_weight(drops: int, grams: float, density_g_ml: float) -> DropSize:
    """The drop of a bottle of which *drops* weigh *grams*, at this density.

    Raises NotANumber for fewer than ten drops, or a weight or density that is not above zero.
    """
    if drops < FEWEST_DROPS:
        raise NotANumber(f"Weigh at least {FEWEST_DROPS} drops.", field="drops")
    for name, number in (("grams", grams), ("density_g_ml", density_g_ml)):
        if not number > 0 or not isfinite(number):
            raise NotANumber(f"{name} must be above zero.", field=name)
    sd = hypot(BALANCE_G / grams, DENSITY, EACH_DROP / sqrt(drops))
    return DropSize(grams / density_g_ml / drops, sd)


@dataclass(frozen=True)
class Bias:
    """How far a bottle reads from a standard, relative: 0.03 is three per cent high; its sd."""

    size: float
    sd: float

    @property
    def interval(self) -> tuple[float, float]:
        """Where it lies with 95 %."""
        return self.size - 1.96 * self.sd, self.size + 1.96 * self.sd


def bias(found: Sequence[float], true: float, sd_one: float) -> Bias:
    """A bottle's bias from what its determinations of a standard *found*, in the standard's unit.

    *sd_one*: sd of one determination in that unit, without what the bottle shares. Raises
    NotANumber without a determination or for a standard of zero.
    """
    if not found:
        raise NotANumber("A bias needs at least one measurement of a standard.", field="found")
    if not true > 0:
        raise NotANumber("The standard must be above zero.", field="true")
    mean = fsum(found) / len(found)
    return Bias(mean / true - 1, sd_one / true / sqrt(len(found)))


@dataclass(frozen=True)
class BottleSpread:
    """How bottles differ. sd: relative, what is left after their own uncertainty; stated: the
    document's; chance: how often bottles as the kit says would differ at least so much."""

    count: int
    sd: float
    stated: float
    chance: float

    @property
    def too_wide(self) -> bool:
        """Whether the bottles differ more than the document says."""
        return self.chance < RARE

    @property
    def sentence(self) -> str:
        """What follows, for people; nothing while the bottles are as stated."""
        if not self.too_wide:
            return ""
        return (
            f"These {self.count} bottles differ by {100 * self.sd:.1f} % (sd), the method says "
            f"{100 * self.stated:.1f} %. Measure the drop of each bottle, and tell the supplier."
        )


def spread_of(biases: Sequence[Bias], stated: float) -> BottleSpread:
    """The spread of ten or more bottles about what the kit says, against the *stated* relative sd.

    Raises NotANumber for fewer than ten bottles or a stated sd that is not above zero.
    """
    if len(biases) < FEWEST_BOTTLES:
        raise NotANumber(f"A spread needs {FEWEST_BOTTLES} bottles or more.", field="biases")
    if not stated > 0:
        raise NotANumber("The stated sd must be above zero.", field="stated")
    total = fsum(one.size**2 / (stated**2 + one.sd**2) for one in biases)
    left = fsum(one.size**2 - one.sd**2 for one in biases) / len(biases)
    chance = float(chdtrc(len(biases), total))
    return BottleSpread(len(biases), sqrt(max(left, 0.0)), stated, chance)
