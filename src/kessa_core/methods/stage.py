"""One stage of a method: what it measures, how it is read, its steps and its rules."""

from functools import lru_cache
from typing import Any

from pydantic import Field, ValidationInfo, field_validator, model_validator

from kessa_core.documents import Key, Measurand, Part, Short
from kessa_core.influences.part import UncertaintySource, validation_error
from kessa_core.methods.parts import Beyond, Blank, Predilution, Reference, Repeats, Spike, Standard
from kessa_core.methods.steps import Step
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.registry import ReadingPart, get_reading_type


class Stage(Part):
    """A stage with a result of its own. A method has one, or several on one sample."""

    id: Key
    title: Short
    measures: Measurand
    reading: ReadingPart
    influences: tuple[UncertaintySource, ...] = Field(default=(), max_length=20)
    continues: Key | None = Field(
        default=None,
        description="The stage before, whose flask this one goes on titrating from the same zero: "
        "its reading holds the earlier one's. With two determinations each, flask by flask.",
    )
    prepare: tuple[Step, ...] = Field(
        default=(),
        max_length=20,
        description="Once before the sample's determinations, which share it (fixing a bottle); "
        "it can be done again.",
    )
    steps: tuple[Step, ...] = Field(
        min_length=1, max_length=30, description="Of every determination; the last one reads."
    )
    blank: Blank | None = None
    standard: Standard | None = None
    reference: Reference | None = None
    spike: Spike | None = None
    predilution: Predilution | None = None
    repeats: Repeats
    above: Beyond
    below: Beyond | None = None

    @field_validator("reading")
    @classmethod
    def _fits_what_is_measured(cls, reading: Any, info: ValidationInfo) -> Any:
        measures = info.data.get("measures")
        if measures and (wrong := get_reading_type(reading).validation_error(reading, measures)):
            raise ValueError(wrong)
        return reading

    @field_validator("influences")
    @classmethod
    def _influences_fit(
        cls, influences: tuple[UncertaintySource, ...], info: ValidationInfo
    ) -> tuple[UncertaintySource, ...]:
        reading = info.data.get("reading")
        if reading is not None:
            principle = get_reading_type(reading)
            if wrong := validation_error(influences, principle.knows, set(principle.needs)):
                raise ValueError(wrong)
        return influences

    @field_validator("steps")
    @classmethod
    def _steps_fit(cls, steps: tuple[Step, ...], info: ValidationInfo) -> tuple[Step, ...]:
        reading, measures = info.data.get("reading"), info.data.get("measures")
        if reading is None or measures is None:
            return steps
        principle = get_reading_type(reading)
        given = [(step.kind, step.slot or "") for step in steps]
        continued = info.data.get("continues") is not None
        if wrong := principle.wrong_steps(reading, measures, given, continued):
            raise ValueError(wrong)
        if not info.data.get("prepare") and any(
            answer.then == "prepare" for step in steps for answer in step.answers
        ):
            raise ValueError("an answer prepare needs a stage with a preparation")
        if not principle(reading, measures, ()).absent_below and any(
            answer.then == "absent" for step in steps for answer in step.answers
        ):
            raise ValueError("an answer absent needs a reading that knows absent_below")
        return steps

    @field_validator("prepare")
    @classmethod
    def _nothing_has_begun(cls, prepare: tuple[Step, ...]) -> tuple[Step, ...]:
        if any(a.then in ("again", "absent") for s in prepare for a in s.answers):
            raise ValueError("prepare: an answer is next, prepare or end")
        if any(step.kind in ("count", "read") for step in prepare):
            raise ValueError("prepare: nothing is counted or read before a determination")
        return prepare

    @model_validator(mode="after")
    def _reference_is_counted(self) -> "Stage":
        if self.reference and not get_reading_type(self.reading).takes_reference:
            raise ValueError("reference: a difference against a water is counted, not read")
        return self

    def reader(self, lots: Lots = NO_LOTS) -> ReadingType:
        """The principle, ready to read with."""
        return _reader(self, lots)

    @model_validator(mode="after")
    def _spike_is_added(self) -> "Stage":
        """Somebody has to be told to add it."""
        if self.spike and not any(step.only == ("spike",) for step in self.steps):
            raise ValueError("spike: a step with only: spike has to say what to add")
        return self

    @model_validator(mode="after")
    def _goes_on_in_one_flask(self) -> "Stage":
        if self.continues and not get_reading_type(self.reading).same_flask:
            raise ValueError("continues: only a titration read from one zero")
        return self

    @model_validator(mode="after")
    def _reference_is_not_diluted(self) -> "Stage":
        if self.reference and self.predilution:
            raise ValueError("predilution: a difference against a water takes both as they are")
        return self

    @property
    def base(self) -> int:
        """How many times every sample is diluted before its determination."""
        return self.predilution.times if self.predilution else 1

    @property
    def most(self) -> int:
        """The maximum count; nothing where nothing is counted."""
        return self.reader().most

    @property
    def roles(self) -> tuple[str, ...]:
        """The determinations that come before the sample's, in order."""
        asked = (("blank", self.blank), ("standard", self.standard), ("reference", self.reference))
        return tuple(role for role, part in asked if part)

    @property
    def sheet_roles(self) -> tuple[str, ...]:
        """The measurements that a blank data sheet has a line for."""
        return (*self.roles, "first", "second")

    @property
    def repeat_words(self) -> str:
        """How many measurements are enough, and when."""
        if self.repeats.least == 1:
            return "One measurement is enough."
        rule = self.repeats.agree
        within = f"{rule.steps}" if rule.steps is not None else f"{rule.relative_percent:g} %"
        return f"Two measurements that agree within {within}; otherwise a third."

    def steps_for(self, role: str, diluted: bool = False) -> list[Step]:
        """The steps of a determination of this role."""
        return [step for step in self.steps if step.is_for(role, diluted)]


@lru_cache(maxsize=512)
def _reader(stage: Stage, lots: Lots) -> ReadingType:
    subtract = bool(stage.blank and stage.blank.subtract)
    return get_reading_type(stage.reading)(
        stage.reading, stage.measures, stage.influences, subtract, lots, stage.repeats.least,
        stage.continues is not None,
    )  # fmt: skip
