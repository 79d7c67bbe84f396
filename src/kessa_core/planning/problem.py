"""What is to be planned: tests, their phases, who is there and what has begun. Whole seconds since
the sample was taken."""

import json
from collections.abc import Iterator
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from kessa_core.documents import Part
from kessa_core.errors import CoreError

LONGEST_S = 500 * 86_400
"""The longest phase, and the latest time."""
Name = Annotated[str, Field(min_length=1, max_length=120)]
Seconds = Annotated[int, Field(ge=0, le=LONGEST_S)]
Moment = Annotated[int, Field(ge=-LONGEST_S, le=LONGEST_S)]


class BadPlanProblem(CoreError):
    """Something that cannot be planned, and why."""


class Hands(Part):
    """One person's hands for exactly *seconds*, without interruption."""

    kind: Literal["hands"]
    seconds: Seconds
    label: str = Field(default="", max_length=240)
    holds: tuple[Name, ...] = ()
    then_at_once: bool = False


class Standing(Part):
    """A wait: from the end of the phase before it to the start of the next."""

    kind: Literal["wait"]
    at_least_s: Seconds = 0
    at_most_s: Seconds | None = None
    label: str = Field(default="", max_length=240)
    holds: tuple[Name, ...] = ()

    @model_validator(mode="after")
    def _can_be_kept(self) -> "Standing":
        if self.at_most_s is not None and self.at_most_s < self.at_least_s:
            raise ValueError("at_most_s lies below at_least_s")
        return self


Phase = Annotated[Hands | Standing, Field(discriminator="kind")]


class PlannedTest(Part):
    """One test. priority: 1 is the most perishable; sampled_s: its own time 0."""

    id: Name
    priority: int = Field(default=1, ge=1, le=1000)
    start_within_s: Seconds | None = None
    sampled_s: Moment = 0
    after: tuple[Name, ...] = ()
    phases: tuple[Phase, ...] = Field(min_length=1, max_length=400)

    @property
    def latest_start(self) -> int | None:
        """When its first phase has to start, at the latest."""
        return None if self.start_within_s is None else self.sampled_s + self.start_within_s


class Placed(BaseModel):
    """A phase and its time, in the form of the output; end_s: none while it is not known."""

    model_config = ConfigDict(extra="ignore", frozen=True)

    test: Name
    phase: int = Field(ge=0)
    start_s: Moment
    end_s: Moment | None = None
    person: int | None = Field(default=None, ge=0, le=1000)


class EarlierPlan(BaseModel):
    """A plan made before; only its phases are read."""

    model_config = ConfigDict(extra="ignore", frozen=True)

    phases: tuple[Placed, ...] = ()


class PlanProblem(Part):
    """people: who share the hands' work. now_s: nothing new starts before. fixed: what has begun or
    ended. previous: of equally good plans the nearest to it is wanted."""

    people: int = Field(default=1, ge=1, le=100)
    tests: tuple[PlannedTest, ...] = Field(max_length=200)
    now_s: Moment = 0
    fixed: tuple[Placed, ...] = ()
    previous: EarlierPlan | None = None

    @model_validator(mode="after")
    def _refers_to_what_is_there(self) -> "PlanProblem":
        tests = {test.id: test for test in self.tests}
        if len(tests) < len(self.tests):
            raise ValueError("two tests have the same id")
        for test in self.tests:
            for other in test.after:
                if other not in tests:
                    raise ValueError(f"{test.id} is to come after {other}, which is not there")
        if waiting := _in_a_circle(tests):
            raise ValueError(f"{waiting} would have to end before it starts")
        self._check_fixed(tests)
        return self

    def _check_fixed(self, tests: dict[str, PlannedTest]) -> None:
        begun: dict[str, set[int]] = {}
        for placed in self.fixed:
            if placed.test not in tests:
                raise ValueError(f"fixed names {placed.test}, which is not there")
            if placed.phase in begun.setdefault(placed.test, set()):
                raise ValueError(f"fixed names phase {placed.phase} of {placed.test} twice")
            if placed.end_s is not None and placed.end_s < placed.start_s:
                raise ValueError(f"phase {placed.phase} of {placed.test} ends before it starts")
            begun[placed.test].add(placed.phase)
        for name, phases in begun.items():
            if phases != set(range(len(phases))) or len(phases) > len(tests[name].phases):
                raise ValueError(f"the fixed phases of {name} are not its first ones")

    def fixed_of(self, test: PlannedTest) -> dict[int, Placed]:
        """What has begun of a test, by its phases."""
        return {placed.phase: placed for placed in self.fixed if placed.test == test.id}


def _in_a_circle(tests: dict[str, PlannedTest]) -> str:
    """A test that waits for itself, if there is one."""
    left = {name: set(test.after) for name, test in tests.items()}
    while left:
        free = [name for name, after in left.items() if not after & left.keys()]
        if not free:
            return next(iter(left))
        for name in free:
            del left[name]
    return ""


def read_problem(text: str) -> PlanProblem:
    """The problem in JSON *text*. Raises BadPlanProblem in a sentence."""
    try:
        given = json.loads(text)
    except (ValueError, RecursionError):
        raise BadPlanProblem("This is no JSON.") from None
    return problem_of(given)


def problem_of(given: Any) -> PlanProblem:
    """The problem in plain data. Raises BadPlanProblem."""
    try:
        return PlanProblem.model_validate(given)
    except ValidationError as error:
        raise BadPlanProblem("; ".join(_sentences(error))) from None


def _sentences(error: ValidationError) -> Iterator[str]:
    for item in error.errors()[:5]:
        where = ".".join(str(part) for part in item["loc"] if part not in ("hands", "wait"))
        said = item["msg"].removeprefix("Value error, ")
        yield f"{where}: {said}" if where else said
