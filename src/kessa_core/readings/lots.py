"""The lots in use: what each reagent's own leaflet, bottle or calibration says."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class DropSize:
    """This bottle's own drop, as the user measured it: mL, and its relative sd."""

    ml: float
    sd: float


@dataclass(frozen=True)
class Lot:
    """A lot of one reagent: its number, a table of (reading, value) if its leaflet prints one, and
    the drop size of the bottle where it was measured."""

    reagent: str = ""
    number: str = ""
    table: tuple[tuple[float, float], ...] = ()
    drop: DropSize | None = None

    @classmethod
    def noted(
        cls,
        reagent: str,
        number: str,
        rows: Iterable[Sequence[float | str]] = (),
        drop: Sequence[float] = (),
    ) -> "Lot":
        """A lot as it is stored: rows of figures or of their text, a drop as its mL and sd."""
        table = tuple((float(reading), float(value)) for reading, value in rows)
        return cls(reagent, number, table, DropSize(*drop) if drop else None)


@dataclass(frozen=True)
class Lots:
    """The lots of a run, one a reagent."""

    held: tuple[Lot, ...] = ()

    def of(self, reagent: str) -> Lot:
        """The lot of this reagent. A lot that names no reagent is any reading's; a reading that
        names none takes the only lot there is."""
        for lot in self.held:
            if lot.reagent == reagent or not lot.reagent:
                return lot
        return self.held[0] if not reagent and len(self.held) == 1 else Lot()


NO_LOTS = Lots()
