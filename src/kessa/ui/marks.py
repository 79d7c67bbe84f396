"""The shapes by which several clocks are told apart, each drawn in a square of 20."""

SHAPES = (
    "M10 2 L19 18 H1 Z",
    "M3 3 H17 V17 H3 Z",
    "M8 2 H12 V8 H18 V12 H12 V18 H8 V12 H2 V8 H8 Z",
    "M10 18 L1 2 H19 Z",
    "M1 7 H19 V13 H1 Z",
    "M10 1 L12.4 7.2 L19 7.5 L13.8 11.6 L15.6 18 L10 14.3 L4.4 18 L6.2 11.6 L1 7.5 L7.6 7.2 Z",
    "M2 5 L5 2 L10 7 L15 2 L18 5 L13 10 L18 15 L15 18 L10 13 L5 18 L2 15 L7 10 Z",
    "M6 2 H14 L19 10 L14 18 H6 L1 10 Z",
)
"""Triangle, square, plus, triangle upside down, bar, star, cross, hexagon. None is a sign of a
verdict."""


def shape_of(number: int) -> str:
    """The shape of the test with this number in its visit; further ones begin again."""
    return SHAPES[number % len(SHAPES)]
