"""How small a field card has to be set so that it fits its paper."""

from kessa_core.methods import Method

ROOM = {"a4": (3400, 4600, 6000, 8200), "a6": (1500, 2100, 2900, 4300)}
"""Letters that fit in each size of type, the largest first."""
A_LINE = 40
"""Letters that a line takes beside its own, as it rarely ends at the edge."""


def card_size(method: Method, paper: str) -> int:
    """1 for the largest type, up to 5."""
    lines = _lines(method)
    letters = sum(len(line) + A_LINE for line in lines)
    return next((n for n, room in enumerate(ROOM[paper], 1) if letters <= room), 5)


def _lines(method: Method) -> list[str]:
    said = [f"{s.title} {s.lead or ''} {s.caution or ''}" for s in method.every_step]
    said += [one.say for one in method.sample.not_for]
    said += [f"{one.what} {one.do}" for one in method.sample.interferes]
    said += [f"{part.what} {part.say}" for part in method.waste]
    said += [*method.hazards, *(one.name for one in method.reagents), *method.gear]
    said += [f"{s.title} {s.repeat_words} {s.above.say}" for s in method.stages]
    return said
