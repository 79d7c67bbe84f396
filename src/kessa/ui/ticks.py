"""Round steps for marks on a scale."""

from math import ceil, floor, log10

STEPS = (1, 2, 5, 10)


def round_step(least: float) -> float:
    """The smallest 1, 2 or 5 times a power of ten that is not below *least*."""
    power = 10.0 ** floor(log10(least))
    return next(step * power for step in STEPS if step * power >= least * (1 - 1e-9))


def whole_step(least: float) -> int:
    """round_step(), at least one."""
    return ceil(round_step(max(least, 1.0)))
