"""The influences of a drop count, ready to compute with."""

from dataclasses import dataclass
from math import hypot

from kessa_core.methods import Method


@dataclass(frozen=True)
class DropSpread:
    """Sizes of everything that makes a drop count differ from the truth.

    shared: relative sd of what scales every count of this bottle and lot (titrant strength,
    mean drop volume). each_drop and portion: relative sd of one drop and of one filling.
    eye: sd in drops. need_low, need_high: drops that the colour itself takes, uniform.
    """

    shared: float
    each_drop: float
    portion: float
    eye: float
    need_low: float
    need_high: float


def drop_spread(method: Method) -> DropSpread:
    """The spread that *method* states."""
    by_name = {influence.of: influence for influence in method.influences}

    def sd(name: str) -> float:
        influence = by_name.get(name)  # type: ignore[call-overload]
        return influence.sd or 0.0 if influence else 0.0

    need = by_name["colour-need"]
    return DropSpread(
        shared=hypot(sd("strength"), sd("drop-size")),
        each_drop=sd("each-drop"),
        portion=sd("portion"),
        eye=sd("eye"),
        need_low=need.low or 0.0,
        need_high=need.high or 0.0,
    )
