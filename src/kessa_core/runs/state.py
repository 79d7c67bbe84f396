"""What a run looks like at a moment; everything here follows from the events."""

from dataclasses import dataclass, field
from typing import Literal

from kessa_core.readings.dropcount import DropReading, Kind

Role = Literal["blank", "first", "second", "third"]
Spot = Literal["step", "reading", "blank-failed", "finished"]
Finish = Literal["", "done", "not-repeatable", "beyond", "not-tested"]

SAMPLE_ROLES: tuple[Role, ...] = ("first", "second", "third")


@dataclass(frozen=True)
class Correction:
    """A reading changed afterwards: what stood before, by which event, and why."""

    event: str
    at: str
    was: str
    why: str


@dataclass
class Determination:
    """One pass inside a run. drop_times: when each counted drop was added, as the device said.

    holder: the device that carries it out.
    """

    role: Role
    attempt: int
    count: int = 0
    ended: bool = False
    closed: bool = False
    kind: Kind = "plain"
    check_drops: int = 0
    rejected: str = ""
    ended_at: str = ""
    drop_times: list[str] = field(default_factory=list)
    holder: str = ""
    corrections: list[Correction] = field(default_factory=list)

    @property
    def id(self) -> str:
        return f"{self.role}-{self.attempt}"

    @property
    def reading(self) -> DropReading | None:
        """The reading once the count has ended."""
        return DropReading(self.count, self.kind) if self.ended and self.count else None

    @property
    def kept(self) -> bool:
        """Closed, with a reading, and not rejected for a stated cause."""
        return self.closed and not self.rejected and self.reading is not None


@dataclass(frozen=True)
class Place:
    """Where the person stands: in which determination, at which step."""

    spot: Spot
    step: str = ""


@dataclass
class RunState:
    """The run so far. unfit: events that had no place where they came, each with the reason."""

    place: Place
    determinations: list[Determination] = field(default_factory=list)
    flags: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    finish: Finish = ""
    cause: str = ""
    unfit: list[tuple[str, str]] = field(default_factory=list)
    undone: frozenset[str] = frozenset()

    @property
    def current(self) -> Determination | None:
        """The determination under way, if one is."""
        last = self.determinations[-1] if self.determinations else None
        return last if last and not last.closed and not last.rejected else None

    def of(self, *roles: Role) -> list[Determination]:
        return [d for d in self.determinations if d.role in roles]

    @property
    def blanks(self) -> list[Determination]:
        """Blanks that passed."""
        return [d for d in self.of("blank") if d.kept]

    @property
    def samples(self) -> list[Determination]:
        """Determinations of the sample that were not rejected, in order."""
        return [d for d in self.of(*SAMPLE_ROLES) if d.kept]

    def attempts(self, role: Role) -> int:
        return len(self.of(role))
