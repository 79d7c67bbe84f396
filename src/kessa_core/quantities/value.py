"""A value is never a bare number: quantity, number, qualifier, interval, how it was read."""

from dataclasses import dataclass, replace
from decimal import Decimal
from math import log10

from kessa_core.errors import NoConversion
from kessa_core.quantities import conversion, units
from kessa_core.quantities.parameters import parameter
from kessa_core.quantities.rounding import figure, rounded, span


@dataclass(frozen=True)
class Quantity:
    """What a number is of: parameter key, form, basis (species or empty), unit."""

    parameter: str
    form: str
    basis: str
    unit: str

    @property
    def label(self) -> str:
        """Unit and basis as printed beside a figure: "mg/L as Cl"."""
        known = parameter(self.parameter)
        if not self.basis or units.unit(self.unit).says_its_basis:
            return self.unit
        return f"{self.unit} as {known.species(self.basis).label}"

    @property
    def name(self) -> str:
        return parameter(self.parameter).name

    @property
    def name_with_form(self) -> str:
        """The name as it stands among other forms: "P alkalinity", "Calcium hardness"."""
        return parameter(self.parameter).name_of(self.form)


@dataclass(frozen=True)
class Interval:
    """Where the truth lies with 95 %, in the unit of its Value; None: not bounded on that side."""

    low: float | None
    high: float | None

    def scaled(self, factor: float) -> "Interval":
        return Interval(
            None if self.low is None else self.low * factor,
            None if self.high is None else self.high * factor,
        )

    def moved(self, shift: float) -> "Interval":
        """Both ends *shift* further."""
        return Interval(
            None if self.low is None else self.low + shift,
            None if self.high is None else self.high + shift,
        )

    def holds(self, truth: float) -> bool:
        """Whether *truth* lies inside, ends included."""
        above = self.low is None or truth >= self.low
        return above and (self.high is None or truth <= self.high)

    def text(self, decimals: int) -> str:
        """The lower bound rounded down, the upper one up: "50–58", "at least 170"."""
        low = None if self.low is None else figure(self.low, decimals, "down")
        high = None if self.high is None else figure(self.high, decimals, "up")
        if low is None and high is None:
            return "no bound"
        if high is None:
            return f"at least {low}"
        return f"at most {high}" if low is None else span(low, high)


@dataclass(frozen=True)
class Value:
    """One value: *number* in the unit of *quantity*, qualifier "", "<" or ">".

    one_sided: the truths for which readings at least this high, and at least this low, are just
    rare enough for a verdict; None where the interval alone decides.
    bracket: the two ends that a rule of reading keeps instead of one figure. said: a word that
    stands for the figure ("not detected", a degree); said_range: words for its interval.
    kit_verdict: "within", "above", "below" or "close", of a kit that gives a verdict of its own.
    """

    quantity: Quantity
    number: float
    decimals: int
    interval: Interval
    qualifier: str = ""
    how: str = ""
    rounding: str = "half-up"
    one_sided: Interval | None = None
    bracket: tuple[float, float] | None = None
    said: str = ""
    said_range: str = ""
    kit_verdict: str = ""

    @property
    def figure(self) -> str:
        """The reported figure with its qualifier: "62", "> 199", "2–4", "not detected".

        A bound is rounded outwards: ">" down, "<" up; a bracket to both sides.
        """
        if self.said:
            return self.said
        if self.bracket:
            low, high = self.bracket
            return span(figure(low, self.decimals, "down"), figure(high, self.decimals, "up"))
        text = figure(self.number, self.decimals, self._way)
        return f"{self.qualifier} {text}" if self.qualifier else text

    @property
    def reported(self) -> Decimal | None:
        """The reported figure as a number, without its qualifier; None for a bracket."""
        if self.bracket:
            return None
        return rounded(self.number, self.decimals, self._way)

    @property
    def _way(self) -> str:
        """How the figure is rounded: a bound outwards."""
        return {"": self.rounding, ">": "down", "<": "up"}[self.qualifier]

    @property
    def text(self) -> str:
        """The figure with its unit and basis; a word needs none."""
        if self.said or self.quantity.unit == "degree":
            return self.figure
        return f"{self.figure} {self.quantity.label}"

    @property
    def text_after_name(self) -> str:
        """The same where its name stands before it: the unit of a pH is its name."""
        return self.figure if self.quantity.label == self.quantity.name else self.text

    @property
    def lies_in_its_range(self) -> bool:
        """Whether the reported figure lies in the interval, both as printed."""
        if self.qualifier or self.bracket:
            return True
        number = rounded(self.number, self.decimals, self.rounding)
        low, high = self.interval.low, self.interval.high
        above = low is None or number >= rounded(low, self.decimals, "down")
        return above and (high is None or number <= rounded(high, self.decimals, "up"))

    @property
    def lies_in_the_middle(self) -> bool:
        """Whether the figure lies in the middle half of a two-sided interval."""
        low, high = self.interval.low, self.interval.high
        if low is None or high is None:
            return True
        quarter = (high - low) / 4
        return low + quarter <= self.number <= high - quarter

    @property
    def range_text(self) -> str:
        """The interval as printed, or its words."""
        return self.said_range or self.interval.text(self.decimals)

    def converted(self, *, basis: str | None = None, unit: str | None = None) -> "Value":
        """The same value as another basis or unit; bounds and qualifier travel with it, and a
        figure that was whole stays so.

        Raises NoConversion where no rule connects the two, or the parameter is never expressed so.
        """
        basis = self.quantity.basis if basis is None else basis
        unit = self.quantity.unit if unit is None else unit
        if (basis, unit) == (self.quantity.basis, self.quantity.unit):
            return self
        allowed = parameter(self.quantity.parameter).bases
        if basis not in allowed:
            raise NoConversion(
                f"{self.quantity.name} is not expressed as {basis or 'nothing'}.",
                field="basis",
                remedy=f"Use {' or '.join(allowed)}.",
            )
        held = self.quantity
        factor, shift = conversion.line(held.parameter, (held.basis, held.unit), (basis, unit))
        quantity = replace(held, basis=basis, unit=unit)
        made = self.scaled(factor).moved(shift)
        whole = max(made.decimals, min(self.decimals, 0))
        return replace(made, quantity=quantity, decimals=whole)

    def scaled(self, factor: float, known: float = 1.0) -> "Value":
        """The same value *factor* times as large: bounds, bracket and qualifier travel with it.

        No figure is printed that the step of the method does not allow: ten times the value has
        one decimal fewer. known: the part of *factor* that the decimals already reckon with.
        """
        fewer = round(log10(factor / known)) if factor > 0 else 0
        low, high = self.bracket or (0.0, 0.0)
        return replace(
            self,
            number=self.number * factor,
            decimals=self.decimals - fewer,
            interval=self.interval.scaled(factor),
            one_sided=self.one_sided.scaled(factor) if self.one_sided else None,
            bracket=(low * factor, high * factor) if self.bracket else None,
        )

    def moved(self, shift: float) -> "Value":
        """The same value on a scale whose zero lies elsewhere: bounds and bracket move with it."""
        if not shift:
            return self
        low, high = self.bracket or (0.0, 0.0)
        return replace(
            self,
            number=self.number + shift,
            interval=self.interval.moved(shift),
            one_sided=self.one_sided.moved(shift) if self.one_sided else None,
            bracket=(low + shift, high + shift) if self.bracket else None,
        )
