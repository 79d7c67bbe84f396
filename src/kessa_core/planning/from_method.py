"""A method as a test to plan: hands joined from one wait to the next, waits with their windows."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Step, Wait
from kessa_core.planning.problem import Hands, Phase, PlannedTest, Standing
from kessa_core.runs.clocks import LATE_S
from kessa_core.sheets.compile import hands_of

UNTIL_S = 120
"""Seconds with which a wait is planned that ends when something can be seen, and nobody says
when."""


@dataclass(frozen=True)
class StepOnce:
    """A step of a measurement: of which stage and role ("before" where it belongs to none), and
    which measurement of that role, counted from 1."""

    stage: str
    role: str
    number: int
    step: str


@dataclass(frozen=True)
class Work:
    """A test as it is planned. steps: those of each phase, in order."""

    phases: tuple[Phase, ...]
    steps: tuple[tuple[StepOnce, ...], ...]

    def as_test(self, test_id: str, method: Method, sampled_s: int = 0) -> PlannedTest:
        """The test, by what the method says of its sample."""
        within = method.sample.start_within_min
        return PlannedTest(
            id=test_id,
            priority=method.sample.perishable,
            start_within_s=None if within is None else 60 * within,
            sampled_s=sampled_s,
            phases=self.phases,
        )


def work_of(method: Method) -> Work:
    """Blank, standard and the measurements that are enough where they agree, flask by flask. Ends
    before a wait of hours: nobody stands beside it.
    """
    return joined(measurements_of(method))


Measurement = list[tuple[StepOnce, Step]]
"""The steps of one measurement, or those before the first, in the order of the work."""


def measurements_of(method: Method) -> list[Measurement]:
    """Every measurement of a method with its steps."""
    made = [list(_once(method.before, "", "before", 1))]
    at = 0
    while at < len(method.stages):
        flask = [method.stages[n] for n in method.flask(at)]
        for role, number in _measurements(flask):
            made.append([one for stage in flask for one in _steps(stage, role, number)])
        at += len(flask)
    return [measurement for measurement in made if measurement]


def joined(measurements: list[Measurement]) -> Work:
    """Hands joined up to the next wait or measurement."""
    made = _Joined()
    for measurement in measurements:
        made.take(measurement)
        if measurement[-1][0].role != "before":
            made.pause()
    return Work(tuple(made.phases), tuple(tuple(steps) for steps in made.steps))


def _measurements(flask: list[Stage]) -> Iterator[tuple[str, int]]:
    """Role and number of each, in the order of the work."""
    for role in dict.fromkeys(role for stage in flask for role in stage.roles):
        yield role, 1
    for number in range(max(stage.repeats.least for stage in flask)):
        yield "sample", number + 1
    if any(stage.spike for stage in flask):
        yield "spike", 1


def _steps(stage: Stage, role: str, number: int) -> Iterator[tuple[StepOnce, Step]]:
    if role not in ("sample", "spike") and role not in stage.roles:
        return
    if role == "sample" and number > stage.repeats.least:
        return
    prepared = stage.prepare if (role, number) == ("sample", 1) else ()
    yield from _once((*prepared, *stage.steps_for(role)), stage.id, role, number)


def _once(
    steps: Iterable[Step], stage: str, role: str, number: int
) -> Iterator[tuple[StepOnce, Step]]:
    for step in steps:
        yield StepOnce(stage, role, number, step.id), step


@dataclass
class _Joined:
    """What has been joined so far. ends: seconds since the first step at which each was done."""

    phases: list[Phase] = field(default_factory=list)
    steps: list[list[StepOnce]] = field(default_factory=list)
    ends: dict[str, int] = field(default_factory=dict)
    now: int = 0
    goes_away: bool = False
    paused: bool = True

    def take(self, steps: Iterable[tuple[StepOnce, Step]]) -> None:
        """One step after the other."""
        for once, step in steps:
            if self.goes_away:
                return
            wait = step.wait
            if wait and wait.is_long:
                self.goes_away = True
            elif wait and not wait.attended:
                self._stand(once, step, wait)
            else:
                self._do(once, step, wait.longest_s if wait else hands_of(step))

    def pause(self) -> None:
        """Between two measurements hands may do something else."""
        self.paused = True

    def _do(self, once: StepOnce, step: Step, seconds: int) -> None:
        last = self.phases[-1] if self.phases else None
        if isinstance(last, Hands) and not self.paused:
            holds = tuple(dict.fromkeys((*last.holds, *step.holds)))
            longer = last.seconds + seconds
            self.phases[-1] = last.model_copy(update={"seconds": longer, "holds": holds})
            self.steps[-1].append(once)
        else:
            made = Hands(kind="hands", seconds=seconds, label=step.title, holds=step.holds)
            self._add(once, made)
        if step.within_s is not None:
            self._read_within(step.within_s, seconds)
        self.now += seconds
        self.ends[step.id] = self.now

    def _stand(self, once: StepOnce, step: Step, wait: Wait) -> None:
        least, most = window_of(wait)
        passed = self.now - self.ends.get(wait.starts or "", self.now)
        least = max(least - passed, 0)
        most = None if most is None else max(most - passed, least)
        made = Standing(
            kind="wait", at_least_s=least, at_most_s=most, label=step.title, holds=step.holds
        )
        self._add(once, made)
        self.now += least
        self.ends[step.id] = self.now

    def _read_within(self, within_s: int, seconds: int) -> None:
        """The reading counts only so long after the last wait began: that wait has this end."""
        hands = self.phases[-1]
        if len(self.phases) < 2 or not isinstance(hands, Hands):
            return
        before = self.phases[-2]
        if isinstance(before, Standing):
            most = max(within_s - (hands.seconds - seconds), before.at_least_s)
            least_of_both = most if before.at_most_s is None else min(before.at_most_s, most)
            self.phases[-2] = before.model_copy(update={"at_most_s": least_of_both})

    def _add(self, once: StepOnce, phase: Phase) -> None:
        self.phases.append(phase)
        self.steps.append([once])
        self.paused = False


def window_of(wait: Wait) -> tuple[int, int | None]:
    """Seconds that a wait lasts at least and, where being late matters, at most, as it is planned:
    one whose time is not known yet with the longest of its table, or with UNTIL_S."""
    seconds = wait.longest_s
    if wait.rule == "at-most":
        return 0, seconds if wait.late_matters else None
    if wait.rule in ("until", "typed"):
        return seconds or UNTIL_S, None
    if not wait.late_matters:
        return seconds, None
    return seconds, wait.to_seconds or seconds + int(LATE_S)
