"""One value against one limit: the interval's verdict, the rule's, and the sentence."""

from collections.abc import Iterable
from dataclasses import dataclass
from decimal import Decimal
from typing import Literal

from kessa_core.judging.limits import Limit
from kessa_core.quantities import Value
from kessa_core.quantities.rounding import rounded

Sign = Literal["within", "close", "beyond", "none"]
WORDS: dict[Sign, str] = {
    "within": "within",
    "close": "too close to call",
    "beyond": "beyond",
    "none": "no limit here",
}


@dataclass(frozen=True)
class Verdict:
    """interval_sign: from the interval. reported_sign: the reported figure against the limit.

    For a legal limit the rule's verdict leads and the interval explains; elsewhere the
    interval's leads. value: what was judged, where its sentence is wanted.
    """

    limit: Limit | None
    interval_sign: Sign
    reported_sign: Sign
    value: Value | None = None

    @property
    def sentence(self) -> str:
        """The verdict as a sentence; made when it is asked for, which most rows of a sheet never
        do."""
        if self.limit is None or self.value is None:
            return "No limit is set here."
        return _sentence(self.value, self.limit, self.interval_sign)

    @property
    def sign(self) -> Sign:
        legal = self.limit is not None and self.limit.tier == "legal limit"
        return self.reported_sign if legal else self.interval_sign

    @property
    def words(self) -> str:
        return WORDS[self.sign]

    @property
    def against(self) -> str:
        """ "long term 120", short enough for a tape."""
        return f"{self.limit.name} {self.limit.bounds_text}" if self.limit else ""


def judge(value: Value, limit: Limit) -> Verdict:
    """*value* against *limit*, compared in the limit's basis and unit.

    All of the interval on the good side and clear of the limit: within. All on the bad side and
    clear of it: beyond. Else: close. What "clear" is the reading principle says (Value.clear): on a
    scale of whole steps the interval alone would call up to 8 % of truths at some limits within.
    Raises NoConversion where the two cannot be compared.
    """
    same = value.converted(basis=limit.basis, unit=limit.unit)
    sign = _of_interval(same, limit)
    return Verdict(limit, sign, _of_reported(same, limit), value)


def leading(verdicts: Iterable[Verdict]) -> Verdict:
    """The verdict that stands for a result: the last limit it is beyond, else the first close
    call, else the first of the set; without limits, one that says so."""
    every = list(verdicts)
    for sign, pick in (("beyond", -1), ("close", 0), ("within", 0)):
        if matching := [verdict for verdict in every if verdict.sign == sign]:
            return matching[pick]
    return Verdict(None, "none", "none")


def _of_interval(value: Value, limit: Limit) -> Sign:
    low = float("-inf") if value.interval.low is None else value.interval.low
    high = float("inf") if value.interval.high is None else value.interval.high
    least = float("-inf") if limit.min is None else float(limit.min)
    most = float("inf") if limit.max is None else float(limit.max)
    clear = value.clear
    if (limit.min is None or least + clear <= low) and (limit.max is None or high + clear <= most):
        return "within"
    return "beyond" if low > most + clear or high < least - clear else "close"


def _of_reported(value: Value, limit: Limit) -> Sign:
    """The rule's way: the reported figure, rounded as reported, against the printed limit.

    A bound decides only when it lies wholly on one side.
    """
    figure = rounded(
        value.number, value.decimals, "down" if value.qualifier == ">" else value.rounding
    )
    above = limit.max is not None and figure > Decimal(limit.max)
    below = limit.min is not None and figure < Decimal(limit.min)
    if value.qualifier == ">":
        return "beyond" if above or figure == Decimal(limit.max or "NaN") else "close"
    if value.qualifier == "<":
        return "beyond" if below else "close" if above else "within"
    return "beyond" if above or below else "within"


def _sentence(value: Value, limit: Limit, sign: Sign) -> str:
    what = f"{value.quantity.name} {value.text}"
    unit = "" if value.quantity == limit.quantity else f" {limit.quantity.label}"
    against = f"the {limit.name} {limit.tier} of {limit.bounds_text}{unit}"
    scope = "" if limit.statistic == "each sample" else f" One sample against a {limit.statistic}."
    if sign == "within":
        return f"{what} is within {against}. {limit.within}{scope}"
    if sign == "beyond":
        return f"{what} is beyond {against}. {limit.beyond}{scope}"
    truth = "is" if value.interval.high is None else "lies in"
    close = f"{what} is too close to call against {against}"
    near = ""
    if not _reaches(value.converted(basis=limit.basis, unit=limit.unit), limit):
        near = ", and its end is nearer to the limit than this method tells apart"
    return f"{close}: the truth {truth} {value.range_text}{near}.{scope}"


def _reaches(value: Value, limit: Limit) -> bool:
    """Whether a bound of the limit lies inside the interval."""
    bounds = [float(b) for b in (limit.min, limit.max) if b is not None]
    return any(value.interval.holds(bound) for bound in bounds)
