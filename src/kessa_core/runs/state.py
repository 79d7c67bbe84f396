"""What a run looks like at a moment; everything here follows from the events."""

from dataclasses import dataclass, field
from typing import Literal

from kessa_core.readings.reading import Count, Kind, Reading

Role = Literal["blank", "standard", "reference", "first", "second", "third", "spike"]
Spot = Literal["step", "reading", "blank-failed", "stage-end", "finished"]
Finish = Literal["", "done", "not-repeatable", "beyond", "not-tested", "not-applicable", "awaiting"]
UNTESTED: tuple[Finish, ...] = ("not-tested", "not-applicable")
"""Answers without a reading: given up, or no test for this water."""
WITHOUT_FIGURE: dict[Finish, str] = {
    "not-tested": "not tested",
    "not-applicable": "not applicable",
    "not-repeatable": "not repeatable",
    "awaiting": "awaiting reading",
}
"""What ends without a figure, in words."""

NOT_REACHED = "stopped before it"
"""Why a stage is not tested that the run never came to."""

RAN_OUT = "another titration of this flask ran out"
"""Why a stage has no result whose flask came to no end in another stage."""

UNREADABLE = "its photographs could not be read"
"""Why a stage has no result of which every photograph turned out useless."""

SAMPLE_ROLES: tuple[Role, ...] = ("first", "second", "third")


@dataclass(frozen=True)
class Correction:
    """A reading changed afterwards: what stood before, by which event, and why."""

    event: str
    at: str
    was: str
    why: str


@dataclass(frozen=True)
class Waited:
    """A clock that ended: which step, how long it ran, how long it should have (None: no end)."""

    step: str
    seconds: float
    least: int
    most: int | None


@dataclass(frozen=True)
class SecondReading:
    """A photograph read once more, by somebody who did not see the first reading: by which event,
    which place on the scale."""

    event: str
    n: float


@dataclass
class Determination:
    """One pass inside a run. drop_times: when each counted drop was added, as the device said.

    slots: what is read in it, in order; none where it is counted. holder: the device that carries
    it out. diluted: how many times the sample was diluted before it. start: the count that it goes
    on from, where it continues in the flask of the stage before. photos: the photograph of a slot;
    read_in: the event that read a slot; twice: slots to be read by a second person. reader: who
    read it, where that was not who tested.
    """

    role: Role
    attempt: int
    stage: str = ""
    slots: tuple[str, ...] = ()
    diluted: int = 1
    count: int = 0
    start: int = 0
    ended: bool = False
    closed: bool = False
    kind: Kind = "plain"
    check_drops: int = 0
    rejected: str = ""
    ended_at: str = ""
    drop_times: list[str] = field(default_factory=list)
    places: dict[str, float] = field(default_factory=dict)
    raw: dict[str, str] = field(default_factory=dict)
    waits: list[Waited] = field(default_factory=list)
    holder: str = ""
    corrections: list[Correction] = field(default_factory=list)
    photos: dict[str, str] = field(default_factory=dict)
    read_in: dict[str, str] = field(default_factory=dict)
    twice: set[str] = field(default_factory=set)
    again: dict[str, SecondReading] = field(default_factory=dict)
    reader: str = ""

    @property
    def id(self) -> str:
        """Unique in the run; the stage stands before it where a method has several."""
        return f"{self.stage}.{self.role}-{self.attempt}".lstrip(".")

    @property
    def seen(self) -> Reading | None:
        """What was seen, once it has been."""
        if self.kind == "absent":
            return Count(0, "absent") if not self.slots else Reading(0, "absent")
        if not self.slots:
            return Count(self.count, self.kind) if self.ended else None
        if self.unread or self.slots[-1] not in self.places:
            return None
        beside = tuple((name, n) for name, n in self.places.items() if name != self.slots[-1])
        return Reading(self.places[self.slots[-1]], self.kind, beside)

    @property
    def unread(self) -> tuple[str, ...]:
        """Slots that were photographed and not read yet."""
        if self.kind == "absent":
            return ()
        return tuple(slot for slot in self.photos if slot not in self.places)

    @property
    def stands(self) -> bool:
        """Closed, and not rejected for a stated cause; its photograph may still be unread."""
        return self.closed and not self.rejected

    @property
    def awaiting(self) -> bool:
        """Done, and its photograph not read yet."""
        return self.stands and bool(self.unread)

    @property
    def kept(self) -> bool:
        """Closed, with a reading, and not rejected for a stated cause."""
        return self.stands and self.seen is not None


@dataclass
class StageState:
    """One stage so far: its determinations, how it ended, and how far the sample is diluted; base:
    how far every sample of it is; prepared: whether what its determinations share is done;
    unrecorded: roles that nobody wrote down; cut_short: fewer measurements were written down than
    the method asks for."""

    id: str
    determinations: list[Determination] = field(default_factory=list)
    finish: Finish = ""
    cause: str = ""
    flags: list[str] = field(default_factory=list)
    dilution: int = 1
    base: int = 1
    prepared: bool = False
    unrecorded: set[str] = field(default_factory=set)
    cut_short: bool = False

    @property
    def extra(self) -> bool:
        """Whether the sample was diluted further than the method always does."""
        return self.dilution != self.base

    def of(self, *roles: Role) -> list[Determination]:
        """Determinations of these roles, in order."""
        return [d for d in self.determinations if d.role in roles]

    def kept(self, role: Role) -> list[Determination]:
        """Those of a role that stand."""
        return [d for d in self.of(role) if d.kept]

    @property
    def awaiting(self) -> list[Determination]:
        """Those whose photograph is not read yet."""
        return [d for d in self.determinations if d.awaiting]

    @property
    def standing_samples(self) -> list[Determination]:
        """Those of the sample that stand, read or not, diluted as it now is."""
        samples = self.of(*SAMPLE_ROLES)
        return [d for d in samples if d.stands and d.diluted == self.dilution]

    @property
    def blanks(self) -> list[Determination]:
        """Blanks that passed."""
        return self.kept("blank")

    @property
    def samples(self) -> list[Determination]:
        """Determinations of the sample, diluted as it now is, that were not rejected."""
        return [d for d in self.of(*SAMPLE_ROLES) if d.kept and d.diluted == self.dilution]

    def has(self, role: Role) -> bool:
        """Whether one of a role stands, read or not."""
        return any(d.stands and (d.seen or d.unread) for d in self.of(role))

    def attempts(self, role: Role) -> int:
        """How often this role was begun."""
        return len(self.of(role))


@dataclass(frozen=True)
class Position:
    """Where the person stands: in which determination, at which step."""

    spot: Spot
    step: str = ""


@dataclass
class RunState:
    """The run so far. at: the stage under way, or the last one.

    reader: who reads from now on, where that is not who tests.
    accepted: what spoke against the sample and was answered before the test.
    preparing: whether the person is at the preparation of the stage. typed: seconds that an
    instrument showed, by the step of the wait.
    untested: which of UNTESTED the stages are that nobody did.
    ignored: events that had no place where they came, each with the reason.
    clock_off_ms: how far a device's clock was behind the server's where it was off, the furthest.
    """

    place: Position
    stages: list[StageState] = field(default_factory=list)
    at: int = 0
    preparing: bool = False
    typed: dict[str, int] = field(default_factory=dict)
    reader: str = ""
    flags: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    accepted: list[str] = field(default_factory=list)
    finish: Finish = ""
    cause: str = ""
    untested: Finish = "not-tested"
    ignored: list[tuple[str, str]] = field(default_factory=list)
    undone: frozenset[str] = frozenset()
    clock_off_ms: int = 0

    @property
    def stage(self) -> StageState:
        """The stage under way, or the last one."""
        return self.stages[self.at]

    @property
    def determinations(self) -> list[Determination]:
        """All of them, stage by stage."""
        return [d for stage in self.stages for d in stage.determinations]

    @property
    def current(self) -> Determination | None:
        """The determination under way, if one is."""
        last = self.stage.determinations[-1] if self.stage.determinations else None
        return last if last and not last.closed and not last.rejected else None
