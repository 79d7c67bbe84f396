"""How a value stands to a limit: by its interval, and by the rule's own figures."""

from decimal import Decimal
from math import inf
from typing import Literal

from kessa_core.judging.limits import Limit
from kessa_core.quantities import Interval, Value
from kessa_core.quantities.rounding import at_figures_of

Sign = Literal["within", "close", "beyond", "none"]


def all_allowed(value: Value) -> list[Interval]:
    """What the value allows: its interval, with the bracket it keeps; and where readings like these
    become rare."""
    low, high = value.interval.low, value.interval.high
    if value.bracket and low is not None and high is not None:
        low, high = min(low, value.bracket[0]), max(high, value.bracket[1])
    found = [Interval(low, high)]
    return [*found, value.one_sided] if value.one_sided else found


def of_interval(value: Value, limit: Limit) -> Sign:
    signs = {of_range(one, limit, value.qualifier) for one in all_allowed(value)}
    return signs.pop() if len(signs) == 1 else "close"


def of_range(allowed: Interval, limit: Limit, qualifier: str) -> Sign:
    """All of a range on one side. The end of a bound does not belong to it: "< 15" fails 15."""
    low = -inf if allowed.low is None else allowed.low
    high = inf if allowed.high is None else allowed.high
    least = -inf if limit.min is None else float(limit.min)
    surely, at_most = limit.most
    if low > at_most or (qualifier == ">" and low >= at_most):
        return "beyond"
    if high < least or (qualifier == "<" and high <= least):
        return "beyond"
    return "within" if least <= low and high <= surely else "close"


def of_reported(value: Value, limit: Limit) -> Sign:
    """The rule's way: the reported figure, rounded as reported, against the printed limit; of a
    bound or a bracket all that it allows."""
    if value.bracket:
        return of_range(Interval(*value.bracket), limit, "")
    figure = value.reported or Decimal(0)
    if value.qualifier == ">":
        return of_range(Interval(float(figure), None), limit, ">")
    if value.qualifier == "<":
        return of_range(Interval(None, float(figure)), limit, "<")
    above = limit.max is not None and compared(value, limit.max, limit) > Decimal(limit.max)
    below = limit.min is not None and compared(value, limit.min, limit) < Decimal(limit.min)
    return "beyond" if above or below else "within"


def compared(value: Value, bound: str, limit: Limit) -> Decimal:
    """The figure that the rule holds against a bound of the limit: the reported one, or that
    rounded to as many significant figures as the bound has, halves up."""
    figure = value.reported or Decimal(0)
    if limit.rounding == "as reported" or not figure:
        return figure
    return at_figures_of(figure, bound)


def unseen(value: Value, limit: Limit) -> bool:
    """Whether a bound stops short of the limit: "< 20" against at most 10, "> 100" against at least
    150."""
    same = value.converted(basis=limit.basis, unit=limit.unit)
    if value.qualifier == "<":
        return limit.max is not None and float(limit.max) < same.number
    return value.qualifier == ">" and limit.min is not None and float(limit.min) > same.number


def is_above(value: Value, limit: Limit) -> bool:
    """Which side of the limit a value beyond it lies on."""
    if limit.max is None or limit.min is None:
        return limit.min is None
    same = value.converted(basis=limit.basis, unit=limit.unit)
    return same.number >= float(limit.max)


def reaches(value: Value, limit: Limit) -> bool:
    """Whether a bound of the limit lies inside what the value allows."""
    allowed = all_allowed(value)[0]
    if limit.min is not None and allowed.holds(float(limit.min)):
        return True
    least, most = limit.most
    low, high = -inf if allowed.low is None else allowed.low, allowed.high
    return limit.max is not None and low <= most and (high is None or high >= least)
