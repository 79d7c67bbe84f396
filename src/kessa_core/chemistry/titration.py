"""What titrant stands for: c = V_titrant N E 1000 / V_sample (definition of normality)."""


def mg_l(
    titrant_ml: float, normality_eq_l: float, equivalent_mg_meq: float, sample_ml: float
) -> float:
    """Concentration in mg/L that *titrant_ml* mL of titrant answer to.

    normality_eq_l in eq/L, equivalent_mg_meq in mg/meq, sample_ml in mL (not zero).
    Source: definition of normality; Standard Methods 2320 B, 4500-Cl B.
    """
    return titrant_ml * normality_eq_l * equivalent_mg_meq * 1000 / sample_ml
