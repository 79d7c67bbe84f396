"""What to pack for tests at points: reagents with enough left, glass, equipment, gear, sample
bottles, and vessels for the waste."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import ceil
from typing import Literal

from kessa_core.describing.layout import lay_out
from kessa_core.methods import Method
from kessa_core.methods.parts import ROUTES, Reagent
from kessa_core.quality.stock import Stock, amount_words
from kessa_core.runs.consumption import used_by_one_test, uses

BOTTLES_ML = (100, 250, 500, 1000)
"""Sample bottles; more sample takes several of the largest."""
SPARE_PERCENT = 20
"""Sample and waste beyond what the methods say: a portion is spilled, a flask rinsed twice."""


@dataclass(frozen=True)
class PackedTest:
    """A method that is done at a point. place: the point, by which sample is added up."""

    method: Method
    place: str


@dataclass(frozen=True)
class Pack:
    """A lot at hand: its number, what is left of it, and what to say of where it lies (nothing for
    one that lies where the others do)."""

    number: str
    stock: Stock
    where: str = ""

    @property
    def words(self) -> str:
        """ "CL-118", "CL-122, from the blue case"."""
        return f"{self.number}, {self.where}" if self.where else self.number


Enough = Literal["enough", "short", "none", "unknown"]


@dataclass(frozen=True)
class ReagentToPack:
    """A reagent: what is needed, in its *unit*, a third determination among it, and whether the
    packs at hand hold that much. packs: which to take, the first to be opened first."""

    name: str
    needed: float
    unit: str
    enough: Enough
    packs: tuple[str, ...]
    left: float | None

    @property
    def needed_words(self) -> str:
        """ "96 drops"."""
        return amount_words(self.needed, self.unit)

    @property
    def left_words(self) -> str:
        """What the packs hold, as far as that was noted; empty where nobody did."""
        return "" if self.left is None else amount_words(self.left, self.unit)


@dataclass(frozen=True)
class SampleNeeded:
    """How much sample the tests of a point take, repeats and a spare part included."""

    place: str
    ml: float

    @property
    def bottles(self) -> tuple[int, ...]:
        """The bottles to fill, in mL."""
        if self.ml > BOTTLES_ML[-1]:
            return (BOTTLES_ML[-1],) * ceil(self.ml / BOTTLES_ML[-1])
        return (next(size for size in BOTTLES_ML if size >= self.ml),)

    @property
    def words(self) -> str:
        """ "Fill 500 mL", "fill 2 bottles of 1000 mL"."""
        sizes = self.bottles
        if len(sizes) == 1:
            return f"{sizes[0]} mL"
        return f"{len(sizes)} bottles of {sizes[0]} mL"


@dataclass(frozen=True)
class WasteVessel:
    """A kind of waste, and how much of it these tests make."""

    route: str
    ml: float

    @property
    def words(self) -> str:
        """ "heavy-metal waste, about 400 mL"."""
        name = ROUTES[self.route]
        return f"{name}, about {_rounded(self.ml)} mL" if self.ml else name


@dataclass(frozen=True)
class Packing:
    """Everything to pack, each thing once."""

    reagents: tuple[ReagentToPack, ...] = ()
    glass: tuple[str, ...] = ()
    equipment: tuple[str, ...] = ()
    worn: tuple[str, ...] = ()
    samples: tuple[SampleNeeded, ...] = ()
    waste: tuple[WasteVessel, ...] = ()


def pack(tests: Sequence[PackedTest], at_hand: Mapping[str, Sequence[Pack]]) -> Packing:
    """What to pack for these tests. at_hand: the packs in use of each reagent, the first to be
    opened first."""
    methods = [test.method for test in tests]
    laid_out = [lay_out(method) for method in methods]
    return Packing(
        tuple(_reagents(methods, at_hand)),
        _once(one.glass for one in laid_out),
        _once(one.equipment for one in laid_out),
        _once(one.worn for one in laid_out),
        _samples(tests),
        waste_of(methods),
    )


def waste_of(
    methods: Iterable[Method], spare_percent: int = SPARE_PERCENT
) -> tuple[WasteVessel, ...]:
    """The waste of one test of each of these, by its route; mL with a spare part."""
    found: dict[str, float] = {}
    for method in methods:
        for part in method.waste:
            found[part.route] = found.get(part.route, 0.0) + part.ml
    spare = 1 + spare_percent / 100
    return tuple(WasteVessel(route, ml * spare) for route, ml in found.items())


def sample_ml(method: Method) -> float:
    """The sample that a test may take: every determination of every flask, with a third one where
    two have to agree."""
    taken, at = 0.0, 0
    while at < len(method.stages):
        flask = method.flask(at)
        least = max(method.stages[n].repeats.least for n in flask)
        spike = any(method.stages[n].spike for n in flask)
        taken += method.sample.volume_ml * (least + (least > 1) + spike)
        at += len(flask)
    return taken


def needed_of(reagent: Reagent, method: Method) -> float:
    """What a test may take of a reagent, a third determination included, in its own unit."""
    usual = used_by_one_test(reagent, method)
    if reagent.per == "preparation" or not reagent.is_for("third"):
        return usual
    thirds = sum(stage.repeats.least > 1 for stage in method.stages if uses(reagent, stage, method))
    return usual + thirds * float(reagent.amount)


def _reagents(
    methods: Sequence[Method], at_hand: Mapping[str, Sequence[Pack]]
) -> Iterable[ReagentToPack]:
    needed: dict[tuple[str, str], float] = {}
    for method in methods:
        for reagent in method.reagents:
            key = (reagent.name, reagent.unit)
            needed[key] = needed.get(key, 0.0) + needed_of(reagent, method)
    for (name, unit), amount in needed.items():
        packs = at_hand.get(name, ())
        taken, enough, left = _taken(packs, amount)
        yield ReagentToPack(name, amount, unit, enough, taken, left)


def _taken(packs: Sequence[Pack], amount: float) -> tuple[tuple[str, ...], Enough, float | None]:
    """The packs to take, whether they are enough, and what they hold together."""
    if not packs:
        return (), "none", None
    held, taken = 0.0, []
    for one in packs:
        taken.append(one.words)
        if one.stock.left is None:
            return tuple(taken), "unknown", None
        held += one.stock.left
        if held >= amount:
            break
    return tuple(taken), "enough" if held >= amount else "short", held


def _samples(tests: Sequence[PackedTest]) -> tuple[SampleNeeded, ...]:
    needed: dict[str, float] = {}
    for test in tests:
        needed[test.place] = needed.get(test.place, 0.0) + sample_ml(test.method)
    spare = 1 + SPARE_PERCENT / 100
    return tuple(SampleNeeded(place, ml * spare) for place, ml in needed.items())


def _once(groups: Iterable[Iterable[str]]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(one for group in groups for one in group))


def _rounded(ml: float) -> int:
    """Up to the next 50 mL, or 10 mL below 100."""
    step = 10 if ml < 100 else 50
    return step * ceil(ml / step)
