"""What makes a reading differ from the truth, and the interval that follows.

part        an influence of a method document, and the spread they make together
credible    from a likelihood on a grid to the 95 % interval
"""

SLIP = 0.01
"""Probability that a determination is a slip (a miscount, a wrong fill) unless known better."""

LEVEL = 0.95
"""What every interval of Kessa holds."""

END = 0.025
"""An interval begins at the end of the domain unless readings this far from it are rarer than so
for a truth at the end."""

FAVOURABLE = 0.045
"""A verdict needs that readings at least this favourable are rarer than so for a truth at the
limit. Half a percent below the 5 % that is promised is left for runs that need a third."""


def outside(asked: int) -> float:
    """The probability that a reading outside the scale still has at the bound that it leaves: 5 %
    for a run of *asked* determinations and ends with the first outside one."""
    return float(1 - LEVEL ** (1 / asked))
