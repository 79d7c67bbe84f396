"""The lots in use: what each reagent's own leaflet, bottle or calibration says."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class DropSize:
    """This bottle's own drop, as the user measured it: mL, and its relative sd."""

    ml: float
    sd: float


@dataclass(frozen=True)
class Measured:
    """A number that somebody measured or that a certificate states, and its relative sd."""

    number: float
    sd: float = 0.0


@dataclass(frozen=True)
class Lot:
    """A lot of one reagent: its number, a table of (reading, value) if its leaflet prints one, and
    the drop size of the bottle where it was measured.

    recovery: what the lot finds of a standard, 1.0 for all of it; results are divided by it.
    content: of a standard, what it holds, in the unit and basis of the stage that measures it.
    """

    reagent: str = ""
    number: str = ""
    table: tuple[tuple[float, float], ...] = ()
    drop: DropSize | None = None
    recovery: Measured | None = None
    content: Measured | None = None

    @classmethod
    def noted(
        cls,
        reagent: str,
        number: str,
        rows: Iterable[Sequence[float | str]] = (),
        drop: Sequence[float] = (),
        recovery: Sequence[float] = (),
        content: Sequence[float] = (),
    ) -> "Lot":
        """A lot as it is stored: rows of figures or of their text; a drop as its mL and sd;
        recovery and content each as number and relative sd."""
        table = tuple((float(reading), float(value)) for reading, value in rows)
        return cls(
            reagent,
            number,
            table,
            DropSize(*drop) if drop else None,
            Measured(*recovery) if recovery else None,
            Measured(*content) if content else None,
        )


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
        reagents = [lot for lot in self.held if not lot.content]
        return reagents[0] if not reagent and len(reagents) == 1 else Lot()


NO_LOTS = Lots()
