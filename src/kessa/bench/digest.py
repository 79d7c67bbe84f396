"""A run's state in one line, so that page and server can compare what they folded."""

from kessa_core.runs import RunState


def digest(state: RunState) -> str:
    """Place, finish and every determination; the page makes the same line from its own fold."""
    parts = [f"{state.place.spot}/{state.place.step}/{state.finish}"]
    parts += [
        f"{d.id}:{d.count}:{d.kind}:{int(d.ended)}{int(d.closed)}{int(bool(d.rejected))}:{d.check_drops}"
        for d in state.determinations
    ]
    return "|".join(parts)
