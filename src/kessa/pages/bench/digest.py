"""A run's state in one line, so that page and server can compare what they folded."""

from kessa_core.runs import Determination, RunState


def digest(state: RunState) -> str:
    """Place, finish and every determination; the page makes the same line from its own fold."""
    first = f"{state.place.spot}/{state.place.step}/{state.finish}"
    return "|".join([first, *map(_line, state.determinations)])


def _line(d: Determination) -> str:
    bits = f"{int(d.ended)}{int(d.closed)}{int(bool(d.rejected))}"
    read = "".join(f":{slot}={n}" for slot, n in d.places.items())
    diluted = f":x{d.diluted}" if d.diluted > 1 else ""
    return f"{d.id}:{d.count}:{d.kind}:{bits}:{d.check_drops}{read}{diluted}"
