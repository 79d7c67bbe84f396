"""The parts that documents share. Descriptions here become the published JSON Schema."""

import unicodedata
from typing import Annotated, Literal

from pydantic import (
    AfterValidator,
    BaseModel,
    ConfigDict,
    Field,
    StringConstraints,
    model_validator,
)

from kessa_core.errors import CoreError
from kessa_core.quantities import Quantity, conversion, parameter

Key = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9-]{0,59}$")]


def _printable(text: str) -> str:
    """Text without control characters and without marks that turn the direction of writing."""
    for letter in text:
        if unicodedata.category(letter) in ("Cc", "Cf", "Cs", "Co", "Cn"):
            raise ValueError(f"the character U+{ord(letter):04X} does not belong in a text")
    return text


def _positive(figure: str) -> str:
    if float(figure) == 0:
        raise ValueError("must be above zero")
    return figure


Short = Annotated[str, StringConstraints(min_length=1, max_length=80), AfterValidator(_printable)]
Line = Annotated[str, StringConstraints(min_length=1, max_length=240), AfterValidator(_printable)]
Figure = Annotated[str, StringConstraints(pattern=r"^[0-9]{1,6}(\.[0-9]{1,6})?$")]
"""A figure as it is printed, nought or more."""
Amount = Annotated[Figure, AfterValidator(_positive)]
"""A figure above zero: a step, a mark, a factor, a slope."""
Signed = Annotated[str, StringConstraints(pattern=r"^-?[0-9]{1,6}(\.[0-9]{1,6})?$")]
Photo = Annotated[
    str,
    StringConstraints(
        pattern=r"^data:image/(jpeg|png|webp);base64,[A-Za-z0-9+/]{8,}={0,2}$", max_length=40_000
    ),
]
"""A small picture of one's own, carried in the document itself: about 30 kB as JPEG."""
Colour = Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")]


class Part(BaseModel):
    """A part of a document: unknown keys are errors, values do not change."""

    model_config = ConfigDict(extra="forbid", frozen=True, str_strip_whitespace=True)


class NamedColour(Part):
    """A colour with its name; a colour is never told by colour alone."""

    name: Short
    hex: Colour


class Measurand(Part):
    """What is measured and how it is reported."""

    parameter: Key = Field(description="Key of a parameter in Kessa's list.")
    form: Key = Field(description="total, dissolved ...")
    basis: str = Field(default="", description="Species the figure is expressed as, e.g. Cl.")
    unit: str = Field(description="Unit of the figure, e.g. mg/L.")
    also: tuple[str, ...] = Field(
        default=(), max_length=3, description="Other bases in which it is said beside, e.g. NO3."
    )
    decimals: int = Field(ge=-3, le=6, description="Decimals that the step of the method allows.")
    rounding: Literal["half-up", "half-even"] = Field(
        default="half-up", description="How halves are rounded."
    )

    @model_validator(mode="after")
    def _in_the_list(self) -> "Measurand":
        known = parameter(self.parameter)
        if self.form not in known.forms:
            raise ValueError(f"form must be one of: {', '.join(known.forms)}")
        if self.basis not in known.bases:
            bases = ", ".join(known.bases) if any(known.bases) else "left out"
            raise ValueError(f"basis must be one of: {bases}")
        if not set(self.also) <= set(known.bases) - {self.basis}:
            raise ValueError(f"also: other bases than {self.basis}, of {', '.join(known.bases)}")
        if self.unit in known.beside:
            return self
        try:
            conversion.line(self.parameter, (self.basis, self.unit), (self.basis, known.unit))
        except CoreError as error:
            raise ValueError(f"unit must measure what {known.unit} does: {error}") from None
        return self

    @property
    def also_words(self) -> str:
        """The other bases, as people read them."""
        known = parameter(self.parameter)
        return " and ".join(known.species(basis).label for basis in self.also)

    @property
    def quantity(self) -> Quantity:
        """What the figure is of."""
        return Quantity(self.parameter, self.form, self.basis, self.unit)
