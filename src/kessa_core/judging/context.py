"""Where a value is judged: the limits in force there and what is usual there."""

from dataclasses import dataclass

from kessa_core.judging.limits import Limit
from kessa_core.judging.verdict import inapplicable
from kessa_core.methods.suitability import NOTHING_KNOWN, KnownConditions
from kessa_core.quantities import Interval, Quantity
from kessa_core.readings.lots import NO_LOTS, Lots
from kessa_core.trends.usual import Usual


@dataclass(frozen=True)
class PointContext:
    """Where a run is made: the limits in force there and what is usual there; what is known of the
    sample; what the programme says of each route of waste. others: limits of the parameter that
    cannot be applied to the quantity."""

    limits: tuple[Limit, ...] = ()
    usual: Usual | None = None
    lots: Lots = NO_LOTS
    usuals: tuple[tuple[Quantity, Usual], ...] = ()
    known: KnownConditions = NOTHING_KNOWN
    waste: tuple[tuple[str, str], ...] = ()
    others: tuple[Limit, ...] = ()

    @property
    def usual_band(self) -> Interval | None:
        """The band that is usual here."""
        return self.usual.band if self.usual else None

    def of(self, quantity: Quantity) -> "PointContext":
        """The limits that are for this quantity (also where what a formula needs was not
        measured), those of its parameter that cannot be applied to it, and what is usual for it."""
        about = [limit for limit in self.limits if limit.parameter == quantity.parameter]
        kept = tuple(
            limit
            for limit in about
            if inapplicable(quantity, limit) in ("", limit.cannot_be_computed)
        )
        others = tuple(limit for limit in about if limit not in kept)
        usual = dict(self.usuals).get(quantity, self.usual)
        return PointContext(kept, usual, self.lots, others=others)
