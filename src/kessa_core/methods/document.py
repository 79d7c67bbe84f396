"""The method document, format kessa-method/2: the model and the rules between its parts."""

import hashlib
import json
from functools import cached_property, lru_cache
from itertools import pairwise
from typing import Any, Literal

from pydantic import Field, field_validator, model_validator

from kessa_core.documents import Key, Line, Part, Short
from kessa_core.documents.own_parameter import OwnParameter
from kessa_core.errors import CoreError
from kessa_core.methods.local_settings import LocalSettings, lines, validation_error
from kessa_core.methods.parts import Change, Derived, Glass, Reagent, SampleNeeds, Waste
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Step
from kessa_core.quantities import Quantity
from kessa_core.readings.registry import get_reading_type

FORMAT = "kessa-method/2"


class Method(Part):
    """A kit's procedure as a document: what it measures, its steps, arithmetic and doubts."""

    format: Literal["kessa-method/2"]
    id: Key
    version: int = Field(ge=1, le=9999)
    title: Short
    short: Short = Field(description="For narrow places.")
    kit: Short = Field(description="Which kit or portion, to tell two methods apart.")
    defines: tuple[OwnParameter, ...] = Field(
        default=(), max_length=8, description="Parameters that Kessa's list does not hold."
    )
    sample: SampleNeeds
    glass: tuple[Glass, ...] = Field(default=(), max_length=10)
    reagents: tuple[Reagent, ...] = Field(default=(), max_length=15)
    before: tuple[Step, ...] = Field(default=(), max_length=20, description="Once a run.")
    stages: tuple[Stage, ...] = Field(min_length=1, max_length=8)
    derived: tuple[Derived, ...] = Field(default=(), max_length=4)
    hazards: tuple[Line, ...] = Field(default=(), max_length=10)
    gear: tuple[Short, ...] = Field(default=(), max_length=10)
    waste: tuple[Waste, ...] = Field(min_length=1, max_length=6)
    changes: tuple[Change, ...] = Field(min_length=1, max_length=200)
    local_settings: LocalSettings | None = Field(
        default=None, description="A programme's own choices; a kit's document has none."
    )

    @field_validator("before")
    @classmethod
    def _nothing_has_begun(cls, before: tuple[Step, ...]) -> tuple[Step, ...]:
        if any(a.then in ("again", "absent") for s in before for a in s.answers):
            raise ValueError("before: nothing was measured yet; an answer is next, prepare or end")
        if any(step.kind in ("count", "read") for step in before):
            raise ValueError("before: nothing is counted or read before a determination")
        return before

    @model_validator(mode="after")
    def _parts_fit_together(self) -> "Method":
        if self.changes[0].version != self.version:
            raise ValueError("changes must begin with an entry for this version")
        ids = [step.id for step in self.every_step]
        if twice := sorted({name for name in ids if ids.count(name) > 1}):
            raise ValueError(f"step ids must differ; used twice: {', '.join(twice)}")
        names = [stage.id for stage in self.stages] + [one.id for one in self.derived]
        if twice := sorted({name for name in names if names.count(name) > 1}):
            raise ValueError(f"stage ids must differ; used twice: {', '.join(twice)}")
        self._waits_know_their_start()
        self._shared_influences_name_their_reagent()
        self._reagents_name_their_stages()
        self._differences_can_be_taken()
        self._titrations_go_on_in_one_flask()
        for stage in self.stages:
            if self.id in (stage.above.method, stage.below.method if stage.below else None):
                raise ValueError("method must be another one than this")
        if wrong := validation_error(self):
            raise ValueError(wrong)
        return self

    def _differences_can_be_taken(self) -> None:
        for one in self.derived:
            if not set(one.less) <= {stage.id for stage in self.stages} or len(set(one.less)) < 2:
                raise ValueError(f"derived {one.id}: less names two different stages")
            try:
                one.counts([s.measures for name in one.less for s in self.stages if s.id == name])
            except CoreError as error:
                raise ValueError(f"derived {one.id}: {error}") from None

    def _titrations_go_on_in_one_flask(self) -> None:
        for before, stage in pairwise(self.stages):
            if stage.continues and not _same_flask(before, stage):
                raise ValueError(
                    f"stage {stage.id}: continues names the stage before it, with the same "
                    "portion, scale and number of determinations"
                )
        if self.stages[0].continues:
            raise ValueError("continues: nothing stands before the first stage")

    def _shared_influences_name_their_reagent(self) -> None:
        held = [reagent.name for reagent in self.reagents if reagent.lot]
        for stage in self.stages:
            for one in stage.influences:
                if one.whose and one.whose not in held:
                    raise ValueError(
                        f"stage {stage.id}: {one.of} is whose {one.whose!r}; reagents with a lot "
                        f"are {', '.join(held) or 'none'}"
                    )

    def _reagents_name_their_stages(self) -> None:
        ids = [stage.id for stage in self.stages]
        for reagent in self.reagents:
            if strange := [name for name in reagent.stages if name not in ids]:
                raise ValueError(
                    f"reagent {reagent.name!r}: no stage {strange[0]!r}; stages are "
                    f"{', '.join(ids)}"
                )

    def _waits_know_their_start(self) -> None:
        known: list[str] = [step.id for step in self.before]
        done: list[str] = []
        for stage in self.stages:
            for step in (*stage.prepare, *stage.steps):
                if step.wait and step.wait.starts and step.wait.starts not in known:
                    raise ValueError(f"step {step.id}: starts names no earlier step")
                if step.wait and step.wait.of_stage and step.wait.of_stage not in done:
                    raise ValueError(f"step {step.id}: of_stage names no earlier stage")
                known.append(step.id)
            done.append(stage.id)

    def __hash__(self) -> int:
        return hash(self.hash)

    @cached_property
    def every_step(self) -> tuple[Step, ...]:
        """All steps, those before first."""
        held = ((*stage.prepare, *stage.steps) for stage in self.stages)
        return (*self.before, *(step for steps in held for step in steps))

    def step(self, step_id: str) -> Step | None:
        """The step with this id."""
        return next((step for step in self.every_step if step.id == step_id), None)

    def stage(self, stage_id: str) -> Stage | None:
        """The stage with this id."""
        return next((stage for stage in self.stages if stage.id == stage_id), None)

    def flask(self, at: int) -> tuple[int, ...]:
        """The stages titrated in one flask with the stage at this place, in order; itself where it
        is alone."""
        first = at
        while self.stages[first].continues:
            first -= 1
        last = at
        while last + 1 < len(self.stages) and self.stages[last + 1].continues:
            last += 1
        return tuple(range(first, last + 1))

    def in_water(self, kind: str) -> "Method":
        """The method as it is done in this kind of water ("" where it is not known); the same
        document, known by the same fingerprint."""
        if not any(step.waters or step.wording for step in self.every_step):
            return self
        return _in_water(self, kind)

    @property
    def quantity(self) -> Quantity:
        """What its first result is of."""
        return self.stages[0].measures.quantity

    @property
    def quantities(self) -> tuple[Quantity, ...]:
        """What its results are of, derived ones last."""
        measures = [s.measures for s in self.stages] + [one.measures for one in self.derived]
        return tuple(each.quantity for each in measures)

    @property
    def followers(self) -> tuple[str, ...]:
        """The methods that may go on where a scale of this one ends."""
        ends = [end for stage in self.stages for end in (stage.above, stage.below) if end]
        return tuple(dict.fromkeys(end.method for end in ends if end.method))

    @property
    def tracked(self) -> tuple[str, ...]:
        """The reagents whose lots belong to the result."""
        return tuple(reagent.name for reagent in self.reagents if reagent.lot)

    @property
    def materials(self) -> tuple[str, ...]:
        """Everything of which a lot can be recorded: reagents, strips, standards."""
        standards = (stage.standard.name for stage in self.stages if stage.standard)
        return tuple(dict.fromkeys((*(one.name for one in self.reagents), *standards)))

    @property
    def instruments(self) -> tuple[str, ...]:
        """The kinds of instrument that its stages are read with, each once, without an article."""
        named = (stage.reader().instrument for stage in self.stages)
        kinds = (name.removeprefix("a ").removeprefix("an ") for name in named if name)
        return tuple(dict.fromkeys(kinds))

    @property
    def principles(self) -> tuple[str, ...]:
        """How it is read, in words, each once."""
        return tuple(dict.fromkeys(stage.reader().words for stage in self.stages))

    @property
    def number(self) -> str:
        """Its version, and the programme's own set of choices where it has one: 1, or 1.2."""
        own = self.local_settings
        return f"{self.version}.{own.number}" if own else str(self.version)

    def changed_since(self, other: "Method") -> list[str]:
        """What changed since *other*, an older document of the same method, a line each."""
        newer = [change.what for change in self.changes if change.version > other.version]
        mine, theirs = self.chosen_words, other.chosen_words
        again = [f"As the kit says again: {line}" for line in theirs if line not in mine]
        chosen = [line for line in mine if line not in theirs]
        return [*newer, *(chosen or again)]

    @property
    def chosen_words(self) -> list[str]:
        """What the programme chose, a line each."""
        return lines(self)

    @property
    def waste_words(self) -> str:
        """Where the waste goes, in one line."""
        return " ".join(part.say for part in self.waste)

    @cached_property
    def hash(self) -> str:
        """Fingerprint of the document's content (not of its spacing or comments).

        What a document leaves unsaid has no part in it, so that the format can grow.
        """
        return fingerprint(self.model_dump(mode="json", exclude_defaults=True))


@lru_cache(maxsize=256)
def _in_water(method: Method, kind: str) -> Method:
    """Method.in_water(), kept."""

    def steps(given: tuple[Step, ...]) -> tuple[Step, ...]:
        return tuple(found for step in given if (found := step.in_water(kind)))

    stages = tuple(
        stage.model_copy(update={"prepare": steps(stage.prepare), "steps": steps(stage.steps)})
        for stage in method.stages
    )
    made = method.model_copy(update={"before": steps(method.before), "stages": stages})
    for name in ("every_step", "hash"):
        made.__dict__.pop(name, None)
    made.__dict__["hash"] = method.hash
    return made


def _same_flask(before: Stage, stage: Stage) -> bool:
    """Whether *stage* can go on titrating what the one before it began."""
    principle = get_reading_type(stage.reading)
    return (
        stage.continues == before.id
        and before.repeats.least == stage.repeats.least
        and principle.goes_on_in_one_flask(before.reading, stage.reading)
    )


def fingerprint(content: Any) -> str:
    """SHA-256 of plain data, independent of the order of its keys."""
    text = json.dumps(content, sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(text.encode()).hexdigest()
