"""One value against one limit: the interval's verdict, the rule's, and the sentence."""

from collections.abc import Iterable
from dataclasses import dataclass

from kessa_core.errors import NoConversion
from kessa_core.judging.comparing import (
    Sign,
    compared,
    is_above,
    of_interval,
    of_reported,
    reaches,
    unseen,
)
from kessa_core.judging.limits import DECIDED_BY, SAMPLE_OF, Limit
from kessa_core.quantities import Quantity, Value, conversion
from kessa_core.quantities.rounding import figure

WORDS: dict[Sign, str] = {
    "within": "within limit",
    "close": "too close to call",
    "beyond": "outside limit",
    "none": "no limit set",
}
KIT_WORDS = {
    "within": "within the kit’s range",
    "above": "above the kit’s range",
    "below": "below the kit’s range",
    "close": "too close to call",
}
KIT_SENTENCES = {
    "within": "{}: within the range that the kit itself marks.",
    "above": "{}: above the range that the kit itself marks.",
    "below": "{}: below the range that the kit itself marks.",
    "close": "{}: too close to call. People differ between this and a grade that the kit judges "
    "otherwise; have somebody else look, or test again.",
}
KIT_SIGNS: dict[str, Sign] = {
    "within": "within", "above": "beyond", "below": "beyond", "close": "close",
}  # fmt: skip
"""What a kit that gives a verdict and no figure says."""
GRADES: dict[tuple[Sign, Sign], str] = {
    ("within", "within"): "good",
    ("beyond", "within"): "fair",
    ("beyond", "beyond"): "poor",
    ("close", "within"): "good or fair",
    ("beyond", "close"): "fair or poor",
    ("close", "close"): "good, fair or poor",
}
"""The grade by the verdict on the limit and on all that is fair at least."""
UNSEEN = "cannot see this limit"
"""Of a bound that stops short of the limit: the method does not reach it."""


@dataclass(frozen=True)
class Verdict:
    """interval_sign: from the interval; it leads. reported_sign: what the rule asks for, the
    reported figure against the limit; it stands beside.

    value: what was judged, where its sentence is wanted. reason: why the limit cannot be applied.
    """

    limit: Limit | None
    interval_sign: Sign
    reported_sign: Sign
    value: Value | None = None
    reason: str = ""

    @property
    def sentence(self) -> str:
        """The verdict as a sentence; made when it is asked for, which most rows of a sheet never
        do."""
        if self.reason:
            return self.reason
        if self.limit is None and self.value and self.value.kit_verdict:
            return KIT_SENTENCES[self.value.kit_verdict].format(self.value.figure)
        if self.limit is None or self.value is None:
            return "No limit is set here."
        said = _sentence(self.value, self.limit, self.interval_sign)
        return f"{said} {self.grade_sentence}" if self.grade else said

    @property
    def grade(self) -> str:
        """ "good", "fair" or "poor" where the limit grades, "good or fair" where the value allows
        both; else nothing."""
        if self.limit is None or self.value is None or self.reason or not self.limit.is_graded:
            return ""
        same = self.value.converted(basis=self.limit.basis, unit=self.limit.unit)
        good, fair = of_interval(same, self.limit), of_interval(same, self.limit.fair_band)
        return GRADES[good, fair]

    @property
    def grade_sentence(self) -> str:
        """The grade with its reason."""
        if self.limit is None:
            return ""
        reasons = {"good": "", "fair": f": {self.limit.fair}", "poor": ""}
        grade = self.grade
        if grade not in reasons:
            return f"Too close to grade: {grade}."
        reason = reasons[grade]
        return f"Graded {grade}{reason}" if reason else f"Graded {grade}."

    @property
    def sign(self) -> Sign:
        """The verdict that leads: the interval's."""
        return self.interval_sign

    @property
    def words(self) -> str:
        """The leading verdict in words."""
        if self.reason:
            return "cannot be compared"
        if self.limit is None and self.value and self.value.kit_verdict:
            return KIT_WORDS[self.value.kit_verdict]
        if self.limit and self.value and self.sign == "close" and unseen(self.value, self.limit):
            return UNSEEN
        if self.limit and self.value and self.sign == "close" and self._one_of_many:
            return f"one sample {_side(self.value, self.limit)}"
        if self.limit and self.value and self.sign == "beyond":
            return _side(self.value, self.limit)
        return WORDS[self.sign]

    @property
    def _one_of_many(self) -> bool:
        """Whether this sample lies on the bad side of a limit that it alone cannot be beyond."""
        if self.limit is None or self.value is None or self.limit.statistic not in DECIDED_BY:
            return False
        same = self.value.converted(basis=self.limit.basis, unit=self.limit.unit)
        return of_interval(same, self.limit) == "beyond"

    @property
    def against(self) -> str:
        """ "long term 120", short enough for a tape."""
        return f"{self.limit.name} {self.limit.bounds_text}" if self.limit else ""

    @property
    def as_printed(self) -> str:
        """The rule's own verdict in one sentence, where it differs from the interval's."""
        if self.limit is None or self.value is None or self.reported_sign == self.interval_sign:
            return ""
        if self._one_of_many:
            return ""
        figure, how = self.value.figure, "compares the rounded value"
        if self.limit.rounding == "figures of the limit" and not self.value.qualifier:
            same = self.value.converted(basis=self.limit.basis, unit=self.limit.unit)
            bound = self.limit.max or self.limit.min or ""
            figure = f"{compared(same, bound, self.limit):f}"
            how = "compares at the limit’s own figures"
        return (
            f"The rule {how}: {figure} against "
            f"{self.limit.bounds_text} is {WORDS[self.reported_sign]}. A hand kit only screens, so "
            "the 95 % range counts here."
        )


def judge(value: Value, limit: Limit) -> Verdict:
    """*value* against *limit*, compared in the limit's basis and unit.

    All that the value allows on the good side: within; all on the bad side: beyond; else close.
    Both need more than the interval: readings at least this favourable must be rare for a truth at
    the limit (Value.one_sided), since on a scale of whole steps the interval alone would call up to
    8 % of truths at some limits within. A limit that cannot be applied says why.
    """
    if reason := inapplicable(value.quantity, limit):
        return Verdict(limit, "none", "none", value, reason)
    same = value.converted(basis=limit.basis, unit=limit.unit)
    by_interval, by_report = of_interval(same, limit), of_reported(same, limit)
    if limit.statistic in DECIDED_BY:
        return Verdict(limit, _of_one_sample(by_interval), _of_one_sample(by_report), value)
    return Verdict(limit, by_interval, by_report, value)


def _of_one_sample(sign: Sign) -> Sign:
    """One sample on the bad side of a limit for many of them: not decided."""
    return "close" if sign == "beyond" else sign


def verdicts_on(value: Value, limits: Iterable[Limit]) -> tuple[Verdict, ...]:
    """*value* against each of *limits*; the kit's own verdict, where it gives one and no limit can
    be applied; else one that says that none is set."""
    made = tuple(judge(value, limit) for limit in limits)
    if value.kit_verdict and all(one.sign == "none" for one in made):
        sign = KIT_SIGNS[value.kit_verdict]
        return (Verdict(None, sign, sign, value),)
    return made or (Verdict(None, "none", "none", value),)


def inapplicable(quantity: Quantity, limit: Limit) -> str:
    """Why *limit* cannot be applied to a value of this quantity, as one sentence; else nothing."""
    if quantity.parameter != limit.parameter:
        return f"The {limit.name} limit is for {limit.quantity.name}; this is {quantity.name}."
    if limit.cannot_be_computed and quantity.form == limit.form:
        return limit.cannot_be_computed
    if quantity.form != limit.form:
        return f"The {limit.name} limit is for {limit.form}; this is {quantity.form}."
    given, wanted = (quantity.basis, quantity.unit), (limit.basis, limit.unit)
    try:
        conversion.line(quantity.parameter, given, wanted)
    except NoConversion as error:
        return f"The {limit.name} limit cannot be applied: {error}"
    return ""


def most_serious_verdict(verdicts: Iterable[Verdict]) -> Verdict:
    """The verdict that stands for a result: the last limit it is beyond, else the first close
    call, else the first of the set; without a limit that applies, one that says so."""
    every = list(verdicts)
    for sign, pick in (("beyond", -1), ("close", 0), ("within", 0)):
        if matching := [verdict for verdict in every if verdict.sign == sign]:
            return matching[pick]
    without = Verdict(None, "none", "none")
    return next((one for one in every if one.reason), every[0] if every else without)


def _sentence(value: Value, limit: Limit, sign: Sign) -> str:
    what = f"{value.quantity.name} {value.text_after_name}"
    unit = "" if value.quantity == limit.quantity else f" {limit.quantity.label}"
    with_what = f" ({limit.computed})" if limit.computed else ""
    against = f"the {limit.named} of {limit.bounds_text}{unit}{with_what}"
    scope = _scope(limit)
    if sign == "within":
        return f"{what} is within {against}. {limit.within}{scope}"
    if sign == "beyond":
        side = "above" if is_above(value, limit) else "below"
        return f"{what} is {side} {against}. {limit.side(is_above(value, limit))}{scope}"
    same = value.converted(basis=limit.basis, unit=limit.unit)
    if limit.statistic in DECIDED_BY and of_interval(same, limit) == "beyond":
        side = "above" if is_above(value, limit) else "below"
        return f"{what} is {side} {against}. This is one sample: {DECIDED_BY[limit.statistic]}."
    if unseen(value, limit):
        remedy = "Use a more precise method, or another range."
        return f"{what}: this method cannot see {against}. {remedy}"
    near = ""
    if not reaches(same, limit):
        near = ". Readings like these are also likely for a true value at the limit"
    least, most = limit.most
    if least < most:
        printed = len(str(limit.max).partition(".")[2])
        low, high = figure(least, printed, "down"), figure(most, printed, "up")
        near = f", and the limit between {low} and {high}{near}"
    close = f"{what} is too close to call against {against}"
    return f"{close}: the true value is probably {_range_words(value)}{near}.{scope}"


def _scope(limit: Limit) -> str:
    """What one sample is worth against this limit; nothing where each sample counts."""
    if limit.statistic in SAMPLE_OF:
        return f" This is one sample against a {SAMPLE_OF[limit.statistic]} {limit.tier}."
    if limit.statistic in DECIDED_BY:
        return f" This is one sample: {DECIDED_BY[limit.statistic]}."
    return ""


def _range_words(value: Value) -> str:
    """The 95 % range in a sentence: "between 49 and 63 mg/L", "above 150 mg/L"."""
    said, unit = value.range_text, value.quantity.unit
    low, apart, high = said.partition(" to " if said.startswith("-") else "–")
    return f"between {low} and {high} {unit}".rstrip() if apart else f"{said} {unit}".rstrip()


def _side(value: Value, limit: Limit) -> str:
    return "above limit" if is_above(value, limit) else "below limit"
