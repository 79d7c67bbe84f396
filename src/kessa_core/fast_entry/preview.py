"""What comes of the cells of a row while they are typed, and the acts that a run gets of them."""

from collections.abc import Mapping, Sequence
from datetime import datetime
from itertools import zip_longest

from kessa_core.fast_entry.cells import Act, Cell
from kessa_core.methods import Method
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.runs import Event, Outcome, RunState, conclude, fold
from kessa_core.runs.entering import NOT_WRITTEN


def acts_of_row(method: Method, cells: Mapping[str, Cell]) -> list[Act]:
    """The acts of one test. cells: by the stage; an empty one is a part that is not on the paper.
    A reason why a part was not tested ends the test, after what was read of the others.
    Colours that are titrated in one flask are entered flask by flask."""
    made: list[Act] = []
    at = following = 0
    while at < len(method.stages):
        flask = [method.stages[n] for n in method.flask(at)]
        alone = flask[0].repeats.least == 1
        found = [cells.get(stage.id, Cell()) for stage in flask]
        entered = [[act for act in cell.acts if act[0] == "enter"] for cell in found]
        if alone or len(flask) == 1:
            made += [act for acts in entered for act in acts]
        else:
            together = [act for one in zip_longest(*entered) for act in one if act]
            made += [(name, data | {"last": 0}) for name, data in together[:-1]]
            made += [(name, data | {"last": 1}) for name, data in together[-1:]]
        at += len(flask)
        following = at if any(entered) else following
    stopped = [act for cell in cells.values() for act in cell.acts if act[0] == "stop"]
    if made and following < len(method.stages) and not stopped:
        stopped = [("stop", {"cause": NOT_WRITTEN})]
    return [*made, *stopped[:1]]


def preview(
    method: Method, acts: Sequence[Act], at: datetime, lots: Lots = NO_LOTS
) -> tuple[RunState, tuple[Outcome, ...]]:
    """The run that these acts make, and what it comes to."""
    events = [
        Event(
            id=f"preview-{number:04d}",
            run="preview-run",
            act=name,
            data=data,
            device="preview-device",
            seq=number,
            lamport=number,
            at=at.isoformat(),
        )
        for number, (name, data) in enumerate(acts, 1)
    ]
    state = fold(method, events, lots)
    return state, conclude(method, state, lots)
