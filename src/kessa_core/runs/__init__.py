"""One method carried out: events that are never changed, and what follows from them.

events     one act at the bench, read from JSON
order      fold order and undo
state      what a run looks like at a moment
fold       events -> state
conclude   state -> outcome: value, bound, or why there is none
export     a run's file: a context line, then its events
"""

from kessa_core.runs.conclude import Outcome, conclude
from kessa_core.runs.events import Event, read_event
from kessa_core.runs.fold import fold
from kessa_core.runs.state import Determination, Place, RunState

__all__ = [
    "Determination",
    "Event",
    "Outcome",
    "Place",
    "RunState",
    "conclude",
    "fold",
    "read_event",
]
