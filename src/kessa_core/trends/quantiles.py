"""Quantiles of results of which some are only known to lie below a figure."""

from collections.abc import Sequence

import numpy as np

from kessa_core.trends.series import Earlier


def quantiles(results: Sequence[Earlier], shares: Sequence[float]) -> list[float | None]:
    """The quantiles of *results* at these *shares* (0 to 1), in their unit; None where one lies
    among those that are only known to be below a figure.

    Without any "<": linear interpolation between order statistics (Hyndman & Fan 1996, type 7).
    With some: the product-limit estimate of Kaplan and Meier (1958) for values cut off at the left
    (Helsel 2012, chapter 6). A ">" counts as its number: the true one is higher still.
    """
    cut = [one.number for one in results if one.qualifier == "<"]
    seen = [one.number for one in results if one.qualifier != "<"]
    if not cut:
        return [float(q) for q in np.quantile(np.asarray(seen, dtype=float), list(shares))]
    steps, unseen = _below(seen, cut)
    return [
        None if wanted <= unseen else next(at for at, share in steps if share >= wanted)
        for wanted in shares
    ]


def _below(seen: Sequence[float], cut: Sequence[float]) -> tuple[list[tuple[float, float]], float]:
    """Each figure with the share of all true values at or below it, the lowest first; and the share
    of those below them all, which nobody could see."""
    levels = sorted(set(seen), reverse=True)
    found, share = [], 1.0
    for level in levels:
        found.append((level, share))
        at_risk = sum(1 for x in seen if x <= level) + sum(1 for x in cut if x <= level)
        share *= 1 - sum(1 for x in seen if x == level) / at_risk
    return found[::-1], share
