"""What a derived value needs, and how it is computed."""

from collections.abc import Callable
from dataclasses import dataclass

from kessa_core.quantities import Quantity


@dataclass(frozen=True)
class Input:
    """A value that is needed: of which quantity, in the basis and unit that the function expects.

    forms: those that will do, the best first. part: of which part of the water, where it is not the
    part of the sample itself. lasts: whether a measurement of the days before still describes the
    sample; its age is then said. otherwise: the figure that is taken where nobody measured it, in
    words with it.
    """

    parameter: str
    forms: tuple[str, ...]
    basis: str
    unit: str
    part: str = ""
    lasts: bool = False
    otherwise: float | None = None
    otherwise_words: str = ""

    @property
    def name(self) -> str:
        """The parameter's name, with its form where that tells it apart, and its part."""
        quantity = Quantity(self.parameter, self.forms[0], self.basis, self.unit)
        told = {"p": "P ", "m": "M ", "calcium": "calcium ", "total": ""}.get(self.forms[0], "")
        name = f"{told}{quantity.name.lower()}" if told else quantity.name
        return f"{name} of the {self.part}" if self.part else name


@dataclass(frozen=True)
class Derived:
    """A value that follows from others.

    compute: takes the inputs' numbers in their order; raises NotANumber where there is no answer.
    name: what is said where the quantity's own name does not do. most: decimals at most. of_part:
    of which part of a water the sample has to be. is_difference: below its own range it is "not
    detected". needs_order: the first input cannot be above the second.
    """

    key: str
    quantity: Quantity
    needs: tuple[Input, ...]
    compute: Callable[..., float]
    source: str
    about: str
    name: str = ""
    most: int = 2
    of_part: str = ""
    is_difference: bool = False
    needs_order: bool = False

    @property
    def title(self) -> str:
        """Its name."""
        return self.name or self.quantity.name
