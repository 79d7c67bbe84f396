"""Values of one sample that cannot all be true. They warn and never refuse.

Source: definitions (a part is at most its whole); CHEMISTRY of carbonate and of chlorine; Standard
Methods 1030 E for conductivity against ions.
"""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from kessa_core.errors import NoConversion
from kessa_core.quantities import Value

OVERSATURATED_PERCENT = 150.0
CHLORIDE_PER_US, HARDNESS_PER_US = 0.30, 0.55
"""mg/L per µS/cm at 25 °C that chloride, or hardness as CaCO3, can make up at most."""


@dataclass(frozen=True)
class Contradiction:
    """What cannot be, from which values; likely: what is often behind it."""

    what: str
    likely: str
    parameters: tuple[str, ...]

    @property
    def sentence(self) -> str:
        """Both as one text."""
        return f"{self.what} {self.likely}"


@dataclass(frozen=True)
class _Part:
    """One side of "a part is at most its whole"."""

    parameter: str
    form: str
    name: str


PARTS_AND_WHOLES = (
    *(
        (_Part(metal, "dissolved", f"Dissolved {metal}"), _Part(metal, "total", f"total {metal}"),
         "Often the total was not digested, or the samples were exchanged.")
        for metal in ("iron", "manganese", "copper", "zinc", "aluminium", "nickel", "lead")
    ),
    (_Part("iron", "ferrous", "Ferrous iron"), _Part("iron", "dissolved", "dissolved iron"),
     "Often air got to the dissolved sample before its test."),
    (_Part("copper", "free", "Free copper"), _Part("copper", "total", "total copper"),
     "Often the second reagent was left out, or the cells were exchanged."),
    (_Part("phosphate", "dissolved", "Dissolved phosphate"),
     _Part("phosphate", "total", "total phosphate"),
     "Often the total was not digested, or one has another basis."),
    (_Part("free-chlorine", "total", "Free chlorine"),
     _Part("total-chlorine", "total", "total chlorine"),
     "Often the two readings were exchanged, or the free one was read late."),
    (_Part("hardness", "calcium", "Calcium hardness"), _Part("hardness", "total", "total hardness"),
     "Often the two counts were exchanged, or the calcium test lacked its alkali."),
    (_Part("acidity", "mineral", "Mineral acidity"), _Part("acidity", "total", "total acidity"),
     "Often the two endpoints were exchanged."),
    (_Part("alkalinity", "p", "P alkalinity"), _Part("alkalinity", "m", "M alkalinity"),
     "Often the two counts were exchanged, or M was counted on from P without adding both."),
    (_Part("nitrite", "total", "Nitrite"),
     _Part("oxidised-nitrogen", "total", "nitrate and nitrite"),
     "Often one of them has another basis."),
)  # fmt: skip


def contradictions(values: Iterable[Value]) -> tuple[Contradiction, ...]:
    """What cannot be among the values of one sample. Each range counts: values that agree within
    them do not contradict each other."""
    known = [value for value in values if not value.said]
    found = [_whole(known, *one) for one in PARTS_AND_WHOLES]
    found += [rule(known) for rule in RULES]
    return tuple(one for one in found if one)


def _whole(known: Sequence[Value], part: _Part, whole: _Part, likely: str) -> Contradiction | None:
    one, all_ = _of(known, part.parameter, part.form), _of(known, whole.parameter, whole.form)
    if one is None or all_ is None:
        return None
    try:
        same = one.converted(basis=all_.quantity.basis, unit=all_.quantity.unit)
    except NoConversion:
        return None
    if not _is_above(_low(same), all_):
        return None
    what = f"{part.name} ({one.text}) is above {whole.name} ({all_.text})."
    return Contradiction(what, likely, (part.parameter, whole.parameter))


def _p_needs_a_high_ph(known: Sequence[Value]) -> Contradiction | None:
    p, ph = _of(known, "alkalinity", "p"), _of(known, "ph", "total")
    if p is None or ph is None or _low(p) <= 0 or _high(ph) >= 8.3:
        return None
    return Contradiction(
        f"P alkalinity ({p.text}) needs a pH of 8.3 or more; it is {ph.figure}.",
        "Often the pH meter is due for calibration, or the sample took up air.",
        ("alkalinity", "ph"),
    )


def _m_needs_a_ph_that_is_not_acid(known: Sequence[Value]) -> Contradiction | None:
    m, ph = _of(known, "alkalinity", "m"), _of(known, "ph", "total")
    if m is None or ph is None or _low(m) <= 0 or _high(ph) >= 4.5:
        return None
    return Contradiction(
        f"M alkalinity ({m.text}) needs a pH of 4.5 or more; it is {ph.figure}.",
        "Often the pH meter is due for calibration.",
        ("alkalinity", "ph"),
    )


def _ions_and_conductivity(
    parameter: str, form: str, basis: str, share: float
) -> Callable[[Sequence[Value]], Contradiction | None]:
    def rule(known: Sequence[Value]) -> Contradiction | None:
        ion, total = _of(known, parameter, form), _of(known, "conductivity", "total")
        if ion is None or total is None:
            return None
        try:
            milligrams = ion.converted(basis=basis, unit="mg/L")
        except NoConversion:
            return None
        most = total.converted(unit="µS/cm").scaled(share)
        if not _is_above(_low(milligrams), most):
            return None
        return Contradiction(
            f"{ion.quantity.name} ({ion.text}) is more than a conductivity of {total.text} allows.",
            "Often mS/cm was read as µS/cm, a dilution was not counted, or the conductivity was "
            "not compensated.",
            (parameter, "conductivity"),
        )

    return rule


def _chlorine_beside_ammonia(known: Sequence[Value]) -> Contradiction | None:
    free, ammonia = _of(known, "free-chlorine", "total"), _of(known, "ammonia", "total")
    if free is None or ammonia is None:
        return None
    if _low(free) <= 0 or _low(ammonia.converted(basis="N", unit="mg/L")) <= 0.1:
        return None
    return Contradiction(
        f"Free chlorine ({free.text}) does not last beside ammonia ({ammonia.text}).",
        "Often combined chlorine was read as free chlorine: read it at once.",
        ("free-chlorine", "ammonia"),
    )


def _oxygen_beside_iron(known: Sequence[Value]) -> Contradiction | None:
    oxygen, iron = _of(known, "oxygen", "dissolved"), _of(known, "iron", "dissolved")
    ph = _of(known, "ph", "total")
    if oxygen is None or iron is None or ph is None:
        return None
    if _low(oxygen) <= 1 or _low(iron) <= 0.5 or _low(ph) <= 7:
        return None
    return Contradiction(
        f"Oxygen ({oxygen.text}) and dissolved iron ({iron.text}) do not last together at pH "
        f"{ph.figure}.",
        "Often the sample stood in air before one of the tests.",
        ("oxygen", "iron"),
    )


def _more_oxygen_than_air_gives(known: Sequence[Value]) -> Contradiction | None:
    percent = _of(known, "oxygen-percent", "dissolved")
    if percent is None or _low(percent) <= OVERSATURATED_PERCENT:
        return None
    return Contradiction(
        f"Oxygen is at {percent.text} of what the water holds in air.",
        "Often a bubble was in the bottle; algae in the sun can do it too.",
        ("oxygen", "oxygen-percent"),
    )


def _faeces_without_coliforms(known: Sequence[Value]) -> Contradiction | None:
    e_coli, coliforms = _of(known, "e-coli", "presence"), _of(known, "coliforms", "presence")
    if e_coli is None or coliforms is None or e_coli.number <= 0 or coliforms.number > 0:
        return None
    return Contradiction(
        "E. coli is present and coliforms are absent; E. coli is one of them.",
        "Often the two readings were exchanged.",
        ("e-coli", "coliforms"),
    )


RULES: tuple[Callable[[Sequence[Value]], Contradiction | None], ...] = (
    _p_needs_a_high_ph,
    _m_needs_a_ph_that_is_not_acid,
    _ions_and_conductivity("chloride", "total", "Cl", CHLORIDE_PER_US),
    _ions_and_conductivity("hardness", "total", "CaCO3", HARDNESS_PER_US),
    _chlorine_beside_ammonia,
    _oxygen_beside_iron,
    _more_oxygen_than_air_gives,
    _faeces_without_coliforms,
)


def _of(known: Sequence[Value], parameter: str, form: str) -> Value | None:
    wanted = (parameter, form)
    fitting = (one for one in known if (one.quantity.parameter, one.quantity.form) == wanted)
    return next(fitting, None)


def _low(value: Value) -> float:
    """The least that a value allows."""
    low = value.interval.low or 0.0
    return min(low, value.bracket[0]) if value.bracket else low


def _high(value: Value) -> float:
    """The most that a value allows."""
    high = float("inf") if value.interval.high is None else value.interval.high
    return max(high, value.bracket[1]) if value.bracket else high


def _is_above(low: float, value: Value) -> bool:
    return low > _high(value)
