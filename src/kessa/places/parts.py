"""Which part of a water a point is: what a sample from it stands for."""

PARTS = {
    "raw": "raw water",
    "treated": "treated water",
    "tap": "tap",
    "feed": "feed water",
    "boiler": "boiler water",
    "condensate": "condensate",
    "make-up": "make-up water",
    "circulating": "circulating water",
    "system": "system water",
    "mains": "mains water",
    "upstream": "upstream",
    "downstream": "downstream",
}


def every_part() -> list[tuple[str, str]]:
    """The parts to choose from."""
    return list(PARTS.items())
