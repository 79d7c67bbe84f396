"""The method document, format kessa-method/1: the model and the rules between its parts."""

import hashlib
import json
from functools import cached_property
from typing import Literal

from pydantic import Field, ValidationInfo, field_validator, model_validator

from kessa_core.chemistry.titration import mg_l
from kessa_core.methods.parts import (
    Blank,
    Change,
    Influence,
    Key,
    Line,
    Measures,
    OutOfRange,
    Part,
    Repeats,
    Short,
    Steps,
    Titration,
)
from kessa_core.quantities import Quantity
from kessa_core.quantities import parameter as find_parameter

FORMAT = "kessa-method/1"


class Method(Part):
    """A kit's procedure as a document: what it measures, its steps, arithmetic and doubts."""

    format: Literal["kessa-method/1"]
    id: Key
    version: int = Field(ge=1, le=9999)
    title: Short
    short: Short = Field(description="For narrow places.")
    kit: Short = Field(description="Which kit or portion, to tell two methods apart.")
    principle: Literal["drop-count"]
    measures: Measures
    titration: Titration
    steps: Steps
    blank: Blank
    repeats: Repeats
    out_of_range: OutOfRange
    influences: tuple[Influence, ...] = Field(min_length=1, max_length=20)
    hazards: tuple[Line, ...] = Field(default=(), max_length=10)
    gear: tuple[Short, ...] = Field(default=(), max_length=10)
    waste: Line
    changes: tuple[Change, ...] = Field(min_length=1, max_length=200)

    @field_validator("measures")
    @classmethod
    def _in_the_list(cls, measures: Measures) -> Measures:
        known = find_parameter(measures.parameter)
        if measures.form not in known.forms:
            raise ValueError(f"form must be one of: {', '.join(known.forms)}")
        if measures.basis not in known.bases:
            raise ValueError(f"basis must be one of: {', '.join(known.bases)}")
        return measures

    @field_validator("titration")
    @classmethod
    def _factor_agrees(cls, titration: Titration) -> Titration:
        from kessa_core.quantities.rounding import figure

        exact = drop_factor(titration)
        decimals = len(titration.factor.partition(".")[2])
        if figure(exact, decimals) != titration.factor:
            raise ValueError(
                f"factor {titration.factor} does not follow from normality, drop, portion and "
                f"equivalent weight: they give {figure(exact, decimals + 2)} mg/L a drop"
            )
        return titration

    @field_validator("steps")
    @classmethod
    def _steps_fit(cls, steps: Steps) -> Steps:
        ids = [step.id for step in (*steps.before, *steps.each)]
        if twice := sorted({name for name in ids if ids.count(name) > 1}):
            raise ValueError(f"step ids must differ; used twice: {', '.join(twice)}")
        if steps.each[-1].kind != "count" or [s.kind for s in steps.each].count("count") != 1:
            raise ValueError("each must end with the one step of kind count")
        for step in (*steps.before, *steps.each):
            if (step.kind == "check") != bool(step.answers):
                raise ValueError(f"step {step.id}: answers belong to kind check, and only to it")
            for answer in step.answers:
                if answer.then != "next" and not answer.cause:
                    raise ValueError(
                        f"answer {answer.id}: say the cause when the step does not pass"
                    )
        if any(a.then == "again" for s in steps.before for a in s.answers):
            raise ValueError("before: no determination has begun, so an answer cannot be again")
        return steps

    @field_validator("influences")
    @classmethod
    def _influences_fit(cls, influences: tuple[Influence, ...]) -> tuple[Influence, ...]:
        names = [influence.of for influence in influences]
        if twice := sorted({name for name in names if names.count(name) > 1}):
            raise ValueError(f"each influence once; used twice: {', '.join(twice)}")
        if missing := sorted({"eye", "colour-need", "drop-size"} - set(names)):
            raise ValueError(f"a drop count needs also: {', '.join(missing)}")
        for influence in influences:
            needed = ("sd",) if influence.distribution == "normal" else ("low", "high")
            if any(getattr(influence, name) is None for name in needed):
                raise ValueError(
                    f"{influence.of}: {influence.distribution} needs {', '.join(needed)}"
                )
        return influences

    @field_validator("out_of_range")
    @classmethod
    def _leads_somewhere(cls, rule: OutOfRange, info: ValidationInfo) -> OutOfRange:
        if (rule.then == "method") != (rule.method is not None):
            raise ValueError("method is named when, and only when, then is method")
        if rule.method == info.data.get("id"):
            raise ValueError("method must be another one than this")
        return rule

    @model_validator(mode="after")
    def _newest_change_first(self) -> "Method":
        if self.changes[0].version != self.version:
            raise ValueError("changes must begin with an entry for this version")
        return self

    def __hash__(self) -> int:
        return hash(self.hash)

    @property
    def quantity(self) -> Quantity:
        """What the result is of."""
        m = self.measures
        return Quantity(m.parameter, m.form, m.basis, m.unit)

    @property
    def factor(self) -> float:
        """The printed factor, mg/L a drop: it makes the reported value."""
        return float(self.titration.factor)

    @cached_property
    def hash(self) -> str:
        """Fingerprint of the document's content (not of its spacing or comments)."""
        content = json.dumps(self.model_dump(mode="json"), sort_keys=True, separators=(",", ":"))
        return hashlib.sha256(content.encode()).hexdigest()


def drop_factor(titration: Titration) -> float:
    """What one drop of the kit stands for, mg/L."""
    return mg_l(
        titration.drop_ml,
        titration.normality_eq_l,
        titration.equivalent_weight_mg_meq,
        titration.portion_ml,
    )
