"""A parameter of one's own, as a document brings it along: name, formula, forms, bases, unit."""

import hashlib
import json

from pydantic import Field, model_validator

from kessa_core.documents.parts import Key, Part, Short
from kessa_core.quantities import Parameter
from kessa_core.quantities.parameters import parameters, register_own
from kessa_core.quantities.species import Species, molar_mass

MASSES_AGREE = 0.01
"""How far a stated molar mass may lie from that of its formula, relative."""


class OwnBasis(Part):
    """What a concentration is expressed as: its formula or name, and how much of it a mole is."""

    formula: str = Field(pattern=r"^[A-Za-z][A-Za-z0-9]{0,19}$", description="CoCl2, or a name.")
    molar_mass: float | None = Field(
        default=None, gt=0, le=5000, description="g/mol; from the formula where it is left out."
    )
    per: int = Field(default=1, ge=1, le=12, description="How many of the parameter it holds.")
    valence: int = Field(default=1, ge=1, le=8, description="Charges that one of it reacts with.")

    @model_validator(mode="after")
    def _has_a_mass(self) -> "OwnBasis":
        computed = molar_mass(self.formula)
        if computed is None and self.molar_mass is None:
            raise ValueError(f"{self.formula} is no formula of known elements: give its molar_mass")
        stated = self.molar_mass or computed or 0.0
        if computed and abs(computed - stated) > MASSES_AGREE * computed:
            raise ValueError(f"molar_mass: {self.formula} is {computed:.2f} g/mol")
        return self

    @property
    def mass(self) -> float:
        """g/mol."""
        return self.molar_mass or molar_mass(self.formula) or 0.0


class OwnParameter(Part):
    """A parameter that the shipped list does not hold."""

    key: Key = Field(description="A name and a fingerprint of the rest, such as cobalt-1f3a9c.")
    name: Short
    formula: Short
    forms: tuple[Key, ...] = Field(default=("total",), min_length=1, max_length=4)
    bases: tuple[OwnBasis, ...] = Field(
        default=(), max_length=4, description="Related forms, the first is stored; none: no basis."
    )
    unit: Short = Field(default="mg/L", description="Kessa's, or one of your own.")
    about: Short = "A parameter of your own."
    signed: bool = Field(default=False, description="Whether values below zero exist.")

    @property
    def fingerprint(self) -> str:
        """Six characters that follow from everything but the key."""
        said = json.dumps(self.model_dump(exclude={"key"}), sort_keys=True)
        return hashlib.sha256(said.encode()).hexdigest()[:6]

    @model_validator(mode="after")
    def _becomes_known(self) -> "OwnParameter":
        stem = self.key.removesuffix(f"-{self.fingerprint}")
        if stem in parameters():
            raise ValueError(f"key: Kessa already knows {stem}; use that, or another name")
        if stem == self.key:
            raise ValueError(f"key must end with -{self.fingerprint}, which follows from the rest")
        formulas = [basis.formula for basis in self.bases]
        if len(set(formulas)) < len(formulas):
            raise ValueError("bases: each formula once")
        register_own(self.as_parameter())
        return self

    def as_parameter(self) -> Parameter:
        """The parameter as the shipped list would hold it."""
        made = tuple(Species(b.formula, b.mass, self.key, b.per, b.valence) for b in self.bases)
        bases = tuple(one.formula for one in made) or ("",)
        return Parameter(
            self.key, self.name, self.formula, self.forms, bases, self.unit, self.about,
            self.signed, own_species=made,
        )  # fmt: skip
