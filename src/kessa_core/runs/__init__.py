"""One method carried out: events that are never changed, and what follows from them.

events     one act at the bench, read from JSON
order      fold order and undo
state      what a run looks like at a moment
clocks     when a wait began and how long it ran
machine    where the person stands, and what follows when something closes
acts       what each act does
fold       events -> state
joint      a difference with what both sides share
conclude   state -> outcomes: value, bound, or why there is none
export     a run's file: a context line, then its events
"""

from kessa_core.runs.conclude import Outcome, conclude
from kessa_core.runs.events import Event, read_event
from kessa_core.runs.fold import fold
from kessa_core.runs.state import (
    UNTESTED,
    WITHOUT_FIGURE,
    Determination,
    Position,
    RunState,
    StageState,
)

__all__ = [
    "UNTESTED",
    "WITHOUT_FIGURE",
    "Determination",
    "Event",
    "Outcome",
    "Position",
    "RunState",
    "StageState",
    "conclude",
    "fold",
    "read_event",
]
