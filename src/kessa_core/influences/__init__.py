"""What makes a reading differ from the truth, and the interval that follows.

spread      the influences of a method document, ready to compute with
credible    from a likelihood on a grid to the 95 % interval
"""

SLIP = 0.01
"""Probability that a determination is a slip (a miscount, a wrong fill) unless known better."""

LEVEL = 0.95
"""What every interval of Kessa holds."""
