"""What makes a reading differ from the truth, and the interval that follows.

part        an influence of a method document, and the spread they make together
credible    from a likelihood on a grid to the 95 % interval
"""

SLIP = 0.01
"""Probability that a determination is a slip (a miscount, a wrong fill) unless known better."""

LEVEL = 0.95
"""What every interval of Kessa holds."""
