"""One concentration expressed as another species."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.quantities.species import convert, formulas, species

SPECIES = tuple((formula, species(formula).label) for formula in formulas())


@register(
    "species-convert",
    "A mass concentration as one species, expressed as another.",
    "Stoichiometry with IUPAC 2021 abridged atomic weights (Pure Appl. Chem. 94:573)",
    (
        Given("value", "", "concentration as the first species"),
        Given("from_", "", "species it is expressed as", kind=str, choices=SPECIES),
        Given("to", "", "species to express it as", kind=str, choices=SPECIES),
    ),
    {"value": Gives("in the unit of the input, as {to}")},
)
def species_convert(value: float, from_: str, to: str) -> dict[str, float]:
    """value as *from_*, expressed as *to*; the unit stays. Raises NoConversion, UnknownName."""
    return {"value": convert(value, from_, to)}
