"""What is left of a test under way, as a test to plan."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.planning.from_method import (
    Measurement,
    StepOnce,
    Work,
    joined,
    measurements_of,
)
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.runs.clocks import due
from kessa_core.runs.events import Event, with_offsets
from kessa_core.runs.fold import replay
from kessa_core.runs.machine import RunStateMachine
from kessa_core.runs.state import SAMPLE_ROLES, Determination, RunState


@dataclass(frozen=True)
class Clock:
    """The wait that a test stands at. since: when it began, in seconds since 1970 by its device's
    clock; least_s, most_s: how long it has to last, most_s None where it may be longer; until: what
    has to be seen before it ends, where no time says it."""

    title: str
    since: float
    least_s: int
    most_s: int | None
    until: str


@dataclass(frozen=True)
class Rest:
    """What is left. begun: whether anything was done; clock: where it stands at a wait; last: when
    something was last done; in_hand: whether hands are in the middle of what comes next; title: the
    step at hand; role: of the measurement it belongs to."""

    work: Work
    begun: bool
    clock: Clock | None
    last: datetime | None
    in_hand: bool
    title: str
    role: str

    @property
    def is_over(self) -> bool:
        """Nothing is left to do."""
        return not self.work.phases


def rest_of(method: Method, events: Iterable[Event], lots: Lots = NO_LOTS) -> Rest:
    """What is left of a test by its events, from the step where the person stands."""
    known = with_offsets(events)
    machine = replay(method, known, lots)
    left = _left(machine)
    done = [event for event in known if event.id not in machine.state.undone]
    step = method.step(machine.state.place.step)
    first = left[0][0][0] if left else None
    return Rest(
        joined(left),
        bool(done),
        _clock(machine),
        max((event.true_when for event in done), default=None),
        bool(done) and _in_hand(method, first),
        step.title if step and machine.state.place.spot == "step" else "",
        first.role if first else "",
    )


def _left(machine: RunStateMachine) -> list[Measurement]:
    """The measurements still to be done, the first from where it stands."""
    state, method = machine.state, machine.method
    if state.finish:
        return []
    every = measurements_of(method)
    here = _here(method, state)
    for at, measurement in enumerate(every):
        places = [once for once, _ in measurement]
        if here in places:
            return [measurement[places.index(here) :], *every[at + 1 :]]
    stage = method.stages[state.at]
    return [*_beyond_the_plan(stage, here), *_after(every, stage)]


def _here(method: Method, state: RunState) -> StepOnce:
    """Where the person stands, as the plan names it."""
    stage = method.stages[state.at]
    current, spot = state.current, state.place.spot
    if spot == "blank-failed":
        return StepOnce(stage.id, "blank", 1, stage.steps_for("blank")[0].id)
    if spot == "stage-end":
        following = method.stages[min(state.at + 1, len(method.stages) - 1)]
        return _start_of(following)
    if current is None:
        role = "sample" if state.preparing else "before"
        return StepOnce(stage.id if state.preparing else "", role, 1, state.place.step)
    role, number = _role(state, current)
    step = state.place.step or _counted(stage, role)
    return StepOnce(stage.id, role, number, step)


def _start_of(stage: Stage) -> StepOnce:
    """The first step of a stage."""
    role = stage.roles[0] if stage.roles else "sample"
    prepared = stage.prepare if role == "sample" else ()
    return StepOnce(stage.id, role, 1, (*prepared, *stage.steps_for(role))[0].id)


def _role(state: RunState, current: Determination) -> tuple[str, int]:
    """A third counts as the third measurement of the sample, whatever was struck before it."""
    if current.role in SAMPLE_ROLES:
        return "sample", len([one for one in state.stage.samples if one is not current]) + 1
    return current.role, 1


def _counted(stage: Stage, role: str) -> str:
    """The step at which is counted: what is left there is to save it."""
    steps = [step.id for step in stage.steps_for(role) if step.kind == "count"]
    return steps[-1] if steps else stage.steps_for(role)[-1].id


def _beyond_the_plan(stage: Stage, here: StepOnce) -> list[Measurement]:
    """A measurement more than are enough, from where it stands."""
    steps = [
        (StepOnce(stage.id, here.role, here.number, step.id), step)
        for step in stage.steps_for("sample")
    ]
    places = [once.step for once, _ in steps]
    return [steps[places.index(here.step) :]] if here.step in places else []


def _after(every: list[Measurement], stage: Stage) -> list[Measurement]:
    """What comes after the last measurement of a stage."""
    own = [at for at, one in enumerate(every) if any(once.stage == stage.id for once, _ in one)]
    return every[own[-1] + 1 :] if own else []


def _clock(machine: RunStateMachine) -> Clock | None:
    step = machine.step_here("wait")
    if not step or not step.wait or machine.state.finish:
        return None
    began = machine.moments.get(step.wait.starts or "") or machine.last
    if began is None:
        return None
    least, most = due(step, machine.state, machine.readers)
    late = most if step.wait.late_matters else None
    return Clock(step.title, began.at, least, late, step.wait.until or "")


def _in_hand(method: Method, here: StepOnce | None) -> bool:
    """Whether the step before this one in its measurement was done by hand."""
    if here is None:
        return False
    for measurement in measurements_of(method):
        places = [once for once, _ in measurement]
        if here in places and (at := places.index(here)):
            before, present = measurement[at - 1][1], measurement[at][1]
            return not before.wait and not present.wait
    return False
