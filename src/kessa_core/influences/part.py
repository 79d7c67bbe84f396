"""An influence as a method document states it, and what a reading principle knows about each."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from math import hypot
from typing import Literal

from pydantic import Field

from kessa_core.documents import Key, Line, Part, Short

Effect = Literal["relative", "per-step", "steps"]


class UncertaintySource(Part):
    """One thing that makes a reading differ from the truth.

    What each name does, and the unit of its size, the reading principle says: relative influences
    scale the value, per-step ones add up step by step, those in steps shift what is seen.
    """

    of: Key
    distribution: Literal["normal", "uniform"] = "normal"
    sd: float | None = Field(default=None, gt=0, le=100, description="Relative, or in steps.")
    low: float | None = Field(default=None, ge=-100, le=100, description="uniform: in steps.")
    high: float | None = Field(default=None, ge=-100, le=100, description="uniform: in steps.")
    scope: Literal["shared", "determination"]
    key: Literal["titrant-lot", "bottle", "portion", "lot", "instrument", "person", "none"] = Field(
        default="none", description="What shares it: the same lot, bottle, instrument, person."
    )
    whose: Short | None = Field(
        default=None, description="Of a lot or bottle: the reagent it belongs to, by its name."
    )
    source: Literal["maker", "replicates", "default"] = Field(
        description="Where its size comes from: the maker, own replicates, Kessa's default."
    )
    reason: Line | None = Field(
        default=None, description="Why its size lies outside what is plausible."
    )

    @property
    def shared_by(self) -> str:
        """What shares it, in one word that two stages can be compared by."""
        return f"{self.of} of {self.key} {self.whose or ''}".strip()


LOTS = ("titrant-lot", "bottle", "lot")
"""Keys that belong to a reagent, which the document names."""
PLAUSIBLE: dict[Effect, tuple[float, float]] = {
    "relative": (0.0005, 0.25),
    "per-step": (0.005, 0.3),
    "steps": (0.05, 6.0),
}
"""Sizes (sd) that influences of hand kits have, by what they do."""


@dataclass(frozen=True)
class SourceInfo:
    """What a principle knows about an influence: what it does, its words, and which sizes (sd) are
    plausible where the effect's usual ones are not."""

    effect: Effect
    words: str
    sizes: tuple[float, float] | None = None

    @property
    def plausible(self) -> tuple[float, float]:
        """The sizes that need no reason."""
        return self.sizes or PLAUSIBLE[self.effect]


EYE = SourceInfo("steps", "where the eye sees it")
PORTION = SourceInfo("relative", "filling the portion")
COLOUR_NEED = SourceInfo("steps", "titrant that the colour itself takes")
DILUTION = SourceInfo("relative", "diluting the sample")
LOT_RECOVERY = SourceInfo("relative", "what the lot finds of a standard")


@dataclass(frozen=True)
class ScaledUncertainties:
    """Sizes of everything that makes a reading differ, ready to compute with.

    relative, steps, per_step: sd of one determination. shared: (key, relative sd) of each shared
    influence that scales the value; shared_steps: sd in steps of what shifts it; offset: the ends
    of a shift that is the same everywhere between them, in steps.
    """

    relative: float = 0.0
    steps: float = 0.0
    per_step: float = 0.0
    shared: tuple[tuple[str, float], ...] = ()
    shared_steps: float = 0.0
    offset: tuple[float, float] = (0.0, 0.0)

    def shared_relative(self, without: Iterable[str] = ()) -> float:
        """Relative sd of what scales every reading alike, but for these keys."""
        left = set(without)
        return hypot(*(sd for key, sd in self.shared if key not in left))


def spread(
    influences: Sequence[UncertaintySource], knows: Mapping[str, SourceInfo]
) -> ScaledUncertainties:
    """The spread that *influences* state, as the principle *knows* them."""

    def sd(effect: Effect, scope: str) -> float:
        return hypot(
            *(
                i.sd or 0.0
                for i in influences
                if knows[i.of].effect == effect and i.scope == scope and i.distribution == "normal"
            )
        )

    even = [i for i in influences if i.distribution == "uniform"]
    low, high = (even[0].low or 0.0, even[0].high or 0.0) if even else (0.0, 0.0)
    scaling = [i for i in influences if i.scope == "shared" and knows[i.of].effect == "relative"]
    return ScaledUncertainties(
        relative=sd("relative", "determination"),
        steps=sd("steps", "determination"),
        per_step=sd("per-step", "determination"),
        shared=tuple((i.shared_by, i.sd or 0.0) for i in scaling),
        shared_steps=sd("steps", "shared"),
        offset=(low, high),
    )


def validation_error(
    influences: Sequence[UncertaintySource], knows: Mapping[str, SourceInfo], needs: set[str]
) -> str:
    """What is wrong with these influences for a principle, as one sentence; else nothing."""
    names = [influence.of for influence in influences]
    if twice := sorted({name for name in names if names.count(name) > 1}):
        return f"each influence once; used twice: {', '.join(twice)}"
    if unknown := sorted(set(names) - set(knows)):
        return f"{', '.join(unknown)} unknown here; this principle knows {', '.join(knows)}"
    if missing := sorted(needs - set(names)):
        return f"this principle needs also: {', '.join(missing)}"
    for influence in influences:
        needed = ("sd",) if influence.distribution == "normal" else ("low", "high")
        if any(getattr(influence, name) is None for name in needed):
            return f"{influence.of}: {influence.distribution} needs {', '.join(needed)}"
        even = influence.distribution == "uniform"
        if even and (knows[influence.of].effect != "steps" or influence.scope != "shared"):
            return f"{influence.of}: only a shared influence in steps may be uniform"
        if even and not (influence.low or 0.0) < (influence.high or 0.0):
            return f"{influence.of}: low must lie below high"
        if influence.key in LOTS and not influence.whose:
            return f"{influence.of}: a {influence.key} belongs to a reagent; name it with whose"
        low, high = knows[influence.of].plausible
        size = influence.sd if not even else (influence.high or 0.0) - (influence.low or 0.0)
        if not influence.reason and not low <= (size or 0.0) <= high:
            return (
                f"{influence.of}: a size of {size:g} is not plausible ({low:g} to {high:g}); "
                "correct it, or give the reason"
            )
    if sum(i.distribution == "uniform" for i in influences) > 1:
        return "at most one influence may be uniform"
    return ""
