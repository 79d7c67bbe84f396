"""Titration: what a drop stands for, and what a burette reading comes to."""

from kessa_core.calculations.registry import Given, Gives, register
from kessa_core.chemistry.titration import mg_l

NORMALITY = Given("normality_eq_l", "eq/L", "normality of the titrant", above=0)
SAMPLE = Given("sample_ml", "mL", "volume of the test portion", above=0)
EQUIVALENT = Given(
    "equivalent_weight_mg_meq", "mg/meq", "equivalent weight of what is reported", above=0
)


@register(
    "titration-factor",
    "What one drop of titrant stands for.",
    "Definition of normality: f = N d E 1000 / V",
    (NORMALITY, Given("drop_ml", "mL", "size of one drop", above=0), SAMPLE, EQUIVALENT),
    {"mg_l_per_drop": Gives("mg/L a drop")},
)
def titration_factor(
    normality_eq_l: float, drop_ml: float, sample_ml: float, equivalent_weight_mg_meq: float
) -> dict[str, float]:
    """f = N d E 1000 / V: eq/L, mL, mL, mg/meq -> mg/L a drop."""
    return {"mg_l_per_drop": mg_l(drop_ml, normality_eq_l, equivalent_weight_mg_meq, sample_ml)}


@register(
    "titration-burette",
    "Concentration from a burette's titre less its blank.",
    "Standard Methods 2320 B, 4500-Cl B: c = (titre - blank) N E 1000 / V",
    (
        NORMALITY,
        Given("titre_ml", "mL", "titrant used by the sample", at_least=0),
        Given("blank_ml", "mL", "titrant used by the blank", default=0.0, at_least=0),
        SAMPLE,
        EQUIVALENT,
    ),
    {"mg_l": Gives("mg/L")},
)
def titration_burette(
    normality_eq_l: float,
    titre_ml: float,
    blank_ml: float,
    sample_ml: float,
    equivalent_weight_mg_meq: float,
) -> dict[str, float]:
    """c = (titre - blank) N E 1000 / V: mL, eq/L, mg/meq, mL -> mg/L.

    Negative when the blank took more than the sample.
    """
    used = titre_ml - blank_ml
    return {"mg_l": mg_l(used, normality_eq_l, equivalent_weight_mg_meq, sample_ml)}
