"""The parameters people pick from, with their formula: the shipped list, and a programme's own.

A parameter of one's own is known by a key that ends with a fingerprint of what it says. One key
therefore means one thing everywhere, whichever programme wrote it.
"""

import tomllib
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from importlib import resources

from kessa_core.errors import UnknownName
from kessa_core.quantities import species, units
from kessa_core.quantities.species import Species


@dataclass(frozen=True)
class Parameter:
    """What is measured: its forms (total, dissolved), bases and stored unit.

    named: what some forms are called, where the name alone would not tell them apart.
    signed: whether values below zero exist (a temperature). beside: units that other instruments
    report it in and that no factor connects with its own. own_species: bases that the shipped list
    of species does not hold.
    """

    key: str
    name: str
    formula: str
    forms: tuple[str, ...]
    bases: tuple[str, ...]
    unit: str
    about: str
    signed: bool = False
    beside: tuple[str, ...] = ()
    own_species: tuple[Species, ...] = ()
    named: tuple[tuple[str, str], ...] = ()

    def name_of(self, form: str) -> str:
        """What one form is called."""
        return dict(self.named).get(form, self.name)

    def species(self, basis: str) -> Species:
        """What a basis of this parameter stands for; raises UnknownName as species.species()."""
        own = next((one for one in self.own_species if one.formula == basis), None)
        return own or species.species(basis)


@cache
def parameters() -> dict[str, Parameter]:
    """Every shipped parameter by its key."""
    text = resources.files("kessa_core.quantities").joinpath("data", "parameters.toml")
    return {
        key: Parameter(
            key,
            entry["name"],
            entry["formula"],
            tuple(entry["forms"]),
            tuple(entry["bases"]),
            entry["unit"],
            entry["about"],
            entry.get("signed", False),
            tuple(entry.get("beside", ())),
            named=tuple(entry.get("named", {}).items()),
        )
        for key, entry in tomllib.loads(text.read_text("utf-8")).items()
    }


_own: dict[str, Parameter] = {}
MOST_OWN = 5000
"""Own parameters held at a time; the oldest make room and are looked up again."""
_look_up: list[Callable[[str], Parameter | None]] = []


def register_own(found: Parameter) -> None:
    """Make a parameter of one's own known by its key, and its unit with it."""
    units.register_own(found.unit)
    if len(_own) >= MOST_OWN and found.key not in _own:
        del _own[next(iter(_own))]
    _own[found.key] = found


def look_up_own_by(look_up: Callable[[str], Parameter | None]) -> None:
    """Ask *look_up* for a parameter of one's own that no document has brought yet."""
    _look_up[:] = [look_up]


def parameter(key: str) -> Parameter:
    """The parameter with this key.

    Raises UnknownName with the shipped keys that exist.
    """
    if found := parameters().get(key) or _own.get(key):
        return found
    for look_up in _look_up:
        if found := look_up(key):
            register_own(found)
            return found
    known = ", ".join(parameters())
    raise UnknownName(f"There is no parameter {key!r}.", remedy=f"Known: {known}.")
