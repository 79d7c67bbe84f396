"""What to lay out before a test begins."""

from dataclasses import dataclass

from kessa_core.methods import Method
from kessa_core.quality.stock import counted
from kessa_core.runs.consumption import used_by_one_test


@dataclass(frozen=True)
class LayOut:
    """glass, worn and equipment: names. reagents: name and what one test takes of it."""

    glass: tuple[str, ...]
    reagents: tuple[tuple[str, str], ...]
    equipment: tuple[str, ...]
    worn: tuple[str, ...]
    waste: tuple[str, ...]

    @property
    def words(self) -> str:
        """Glass, reagents and equipment in one line."""
        taken = (f"{name} ({amount})" for name, amount in self.reagents)
        return "; ".join((*self.glass, *taken, *self.equipment))


def lay_out(method: Method) -> LayOut:
    """Everything that a test of this method needs within reach."""
    steps = method.every_step
    held = [name for step in steps for name in step.holds]
    clocks = ["a clock"] if any(step.wait and step.wait.seconds for step in steps) else []
    worn = [*method.gear, *(name for step in steps for name in step.gear)]
    return LayOut(
        tuple(_glass(one.name, one.holds_ml) for one in method.glass),
        tuple(
            (one.name, _amount(one.unit, used_by_one_test(one, method))) for one in method.reagents
        ),
        tuple(dict.fromkeys([*method.instruments, *held, *clocks])),
        tuple(dict.fromkeys(worn)),
        tuple(dict.fromkeys(part.what for part in method.waste)),
    )


def _glass(name: str, holds_ml: float | None) -> str:
    return f"{name}, {holds_ml:g} mL" if holds_ml else name


def _amount(unit: str, amount: float) -> str:
    return f"{amount:g} {counted(unit, amount)}"
