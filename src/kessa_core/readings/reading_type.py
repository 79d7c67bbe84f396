"""What every reading principle answers: its scales, its convention, its interval.

A reader belongs to one stage of a method: the stage's reading part, what it measures, what makes
it differ from the truth. A principle is one subclass in a module of its own;
`docs/METHOD-FORMAT.md` says which other places a new one touches.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal
from functools import cached_property
from itertools import pairwise
from math import floor, inf
from typing import Any, ClassVar, Literal

import numpy as np

from kessa_core.documents import Measurand, NamedColour, Part
from kessa_core.influences.part import (
    DILUTION,
    LOT_RECOVERY,
    LOTS,
    SourceInfo,
    UncertaintySource,
    spread,
)
from kessa_core.quantities import Interval, Value
from kessa_core.quantities.rounding import figure
from kessa_core.readings.lots import NO_LOTS, Lot, Lots
from kessa_core.readings.reading import Reading
from kessa_core.readings.scale import Scale
from kessa_core.readings.scale_model import Edges, ScaleModel

Lookup = Literal["count", "place", "band", "later"]
ENUMERATED = 40
"""Up to so many places on a scale every single one has a row on the bench page."""
STEADY = 0.02
"""Sd in steps that stands for "no scatter at all"."""
SD_AFTER_STANDARD = 0.01
"""Relative sd that is left of what is shared once a standard has shown it."""
SHARE_AFTER_STANDARD = 0.4
"""Share that a standard leaves of a shift on the scale."""


@dataclass(frozen=True)
class ReadingType:
    """One stage's reading. part: the document's reading part; subtract: the blank is subtracted;
    asked: how many determinations a run asks for; continued: it goes on in the flask of the stage
    before."""

    part: Any
    measures: Measurand
    influences: tuple[UncertaintySource, ...]
    subtract: bool = False
    lots: Lots = NO_LOTS
    asked: int = 1
    continued: bool = False

    by: ClassVar[str]
    words: ClassVar[str]
    document: ClassVar[type[Part]]
    knows: ClassVar[Mapping[str, SourceInfo]]
    needs: ClassVar[frozenset[str]] = frozenset()
    slots: ClassVar[tuple[str, ...]] = ("reading",)
    counts: ClassVar[str] = ""
    step_unit: ClassVar[str] = "steps"
    backs_off: ClassVar[bool] = False
    takes_reference: ClassVar[bool] = False
    corrected_by: ClassVar[tuple[str, ...]] = ("slot", "raw", "strike")
    read_title: ClassVar[str] = "Read"
    blank_verb: ClassVar[str] = "read"
    other_way: ClassVar[str] = "other kit"
    step: ClassVar[str] = "one step of the scale"
    standard_shows: ClassVar[str] = "a standard beside it"
    wide: ClassVar[bool] = False
    photographed: ClassVar[str] = ""
    over_says: ClassVar[str] = "Above the top"
    under_says: ClassVar[str] = "Below the foot"
    over_anywhere: ClassVar[bool] = False
    measures_out: ClassVar[bool] = False
    rising: ClassVar[bool] = False
    same_flask: ClassVar[tuple[str, ...]] = ()
    option_field: ClassVar[str] = ""
    option_title: ClassVar[str] = ""
    options: ClassVar[Mapping[str, str]] = {}

    @property
    def reagent(self) -> str:
        """The reagent whose lot this reading rests on; empty where none does."""
        return next((i.whose for i in self.influences if i.key in LOTS and i.whose), "")

    @property
    def dispenses(self) -> str:
        """The reagent of which this reading is the amount used; empty where it is not."""
        if not self.measures_out:
            return ""
        named = getattr(self.part, "titrant", None) or getattr(self.part, "tablet", "")
        return self.reagent or str(named)

    @property
    def kit_drop_ml(self) -> float | None:
        """The drop of that reagent as the kit says it; None where it says nothing."""
        return None

    def dispensed(self, seen: Reading | None, counted: int) -> float:
        """How much of it was used from the zero on, in its unit. counted: check drops too."""
        return seen.n if seen else 0.0

    @property
    def instrument(self) -> str:
        """The kind of instrument that shows the reading, as the document names it; empty without
        one."""
        return ""

    @property
    def above_words(self) -> str:
        """The button for a reading above the measuring range."""
        return self.over_says

    @property
    def below_words(self) -> str:
        """The button for a reading below the measuring range."""
        return self.under_says

    @property
    def lot(self) -> Lot:
        """The lot in use of that reagent."""
        return self.lots.of(self.reagent)

    @property
    def correction(self) -> float:
        """What values are multiplied with because this lot finds more or less than there is."""
        recovery = self.lot.recovery
        return 1 / recovery.number if recovery else 1.0

    @classmethod
    def validation_error(cls, part: Any, measures: Measurand) -> str:
        """What is wrong with this part for what is measured, as one sentence; else nothing."""
        return ""

    @classmethod
    def goes_on_in_one_flask(cls, before: Any, after: Any) -> bool:
        """Whether a stage read by the part *after* can go on titrating what *before* began: both
        are this principle's and alike in the fields of same_flask, of which most have none."""
        alike = (getattr(before, name, None) == getattr(after, name) for name in cls.same_flask)
        return bool(cls.same_flask) and before.by == after.by and all(alike)

    @classmethod
    def wrong_steps(
        cls, part: Any, measures: Measurand, steps: Sequence[tuple[str, str]], continued: bool
    ) -> str:
        """What is wrong with the steps of a determination, given as (kind, slot), as one sentence;
        else nothing."""
        slots = list(cls(part, measures, (), continued=continued).reading_fields)
        kinds = [kind for kind, _ in steps]
        if kinds[-1] != "read" or [slot for _, slot in steps if slot] != slots:
            return f"must read these slots in order, the last at its end: {slots}"
        return f"a step of kind count does not belong to {cls.words}" if "count" in kinds else ""

    @property
    def reading_fields(self) -> tuple[str, ...]:
        """The slots that this stage reads, in order; the last is the one that decides."""
        return self.slots

    def scale(self, slot: str) -> Scale:
        """The scale of one slot."""
        raise NotImplementedError

    @property
    def main(self) -> Scale:
        """The scale of the slot that decides."""
        return self.scale(self.reading_fields[-1] if self.reading_fields else "")

    @property
    def reach(self) -> tuple[int, int]:
        """The first and the last position that can be read."""
        return self.main.low, self.main.high

    @property
    def most(self) -> int:
        """The maximum count; 0 where nothing is counted."""
        return 0

    @property
    def portion(self) -> str:
        """The test portion, as pictures of its steps show it; empty where there is none."""
        portion = getattr(self.part, "portion_ml", None)
        return f"{portion:g} mL" if portion else ""

    @property
    def start_colour(self) -> NamedColour | None:
        """The colour at the start; None where none is watched."""
        return getattr(self.part, "start_colour", None)

    @property
    def option_in_use(self) -> str:
        """Which of its options the document takes; empty where it has none."""
        return str(getattr(self.part, self.option_field)) if self.option_field else ""

    @property
    def lookup(self) -> Lookup:
        """How the bench page looks an outcome up: by count, by place on a short scale, by bands of
        a long one, or not at all."""
        return "place" if self.weights() and self.main.count <= ENUMERATED else "later"

    @property
    def asks_about_apart(self) -> bool:
        """Whether two readings improbably far apart are asked about before they are taken."""
        return bool(self.weights()) and not self.main.labels

    @property
    def has_scale(self) -> bool:
        """Whether it is read on a scale of its own, each place of which comes to a value."""
        return bool(self.weights())

    def example(self, position: int) -> Reading:
        """A reading at this position."""
        return Reading(position)

    def examples(self) -> list[Reading]:
        """A reading at every position of the scale."""
        first, last = self.reach
        return [self.example(n) for n in range(first, last + 1)]

    def outside(self) -> list[Reading]:
        """The readings above the top and below the foot of the scale, where it has them."""
        scale = self.main
        top = scale.high if scale.over_at is None else scale.over_at
        foot = scale.low if scale.under_at is None else scale.under_at
        above = [Reading(top, "beyond")] if scale.over else []
        return above + ([Reading(foot, "below")] if scale.under else [])

    def out_of_order(self, places: Mapping[str, float]) -> str:
        """Why these readings of one determination cannot belong together; else nothing."""
        read = [places[slot] for slot in self.reading_fields if slot in places]
        falls = self.rising and any(b < a for a, b in pairwise(read))
        return "the end stands before the start" if falls else ""

    # What was seen, as whole numbers and in words.

    def half_steps(self, seen: Reading) -> int:
        """What was seen in half steps, whole: what agreement and tables go by."""
        return floor(2 * seen.n + 0.5)

    def weights(self) -> dict[str, int]:
        """halves() as a sum: what one step of each slot adds."""
        return {self.reading_fields[-1]: 2}

    @property
    def halves_at_zero(self) -> int:
        """What halves() begins at, before the weights add to it."""
        return 0

    def format_reading(self, seen: Reading) -> str:
        """What was seen, as people say it."""
        scale = self.main
        if seen.kind == "beyond":
            return f"above {scale.say(scale.high)}"
        if seen.kind == "below":
            return f"below {scale.say(scale.low)}"
        if seen.kind == "absent":
            return "absent"
        return f"{scale.say(seen.n)} {scale.unit}".strip()

    def listed(self, every: Sequence[Reading]) -> str:
        """Readings one after the other, as people say them."""
        return ", ".join(map(self.format_reading, every))

    def unread(self, count: int) -> str:
        """What stands for a determination that has not been read; *count*: what was counted."""
        return "not read"

    def blank_bound(self, allowed: int) -> str:
        """Up to what a blank passes, as people say it."""
        return f"{self.main.say(allowed)} {self.main.unit}".strip()

    @property
    def beyond_title(self) -> str:
        """What a reading past the end of the scale is headed with."""
        return f"Above {self.main.say(self.main.high)} {self.main.unit}".rstrip()

    def count_words(self) -> dict[str, Any]:
        """What the bench page says of a count; nothing where nothing is counted."""
        return {}

    def edges(self, seen: Reading) -> Edges:
        """What was seen lies between these two places on the scale."""
        if seen.kind == "beyond":
            return seen.n + 0.5, inf
        if seen.kind == "below":
            return -inf, seen.n - 0.5
        return seen.n - 0.5, seen.n + 0.5

    def at(self, half_steps: int) -> float:
        """The value at this many half steps, in the unit of the stage."""
        return float(self.model.value_at(half_steps / 2))

    def seen_at(self, u: float) -> Reading:
        """What a person records who sees the sample at this place: the inverse of edges()."""
        scale = self.main
        n = floor(u + 0.5)
        if n > scale.high:
            return Reading(scale.high, "beyond" if scale.over else "plain")
        if n < scale.low:
            return Reading(scale.low, "below" if scale.under else "plain")
        return Reading(n)

    def number(self, seen: Reading) -> Decimal:
        """What one determination reports, in the unit of the stage."""
        raise NotImplementedError

    def bracket(self, seen: Reading) -> tuple[float, float] | None:
        """The bracket kept, where the rule of reading keeps one."""
        return None

    @property
    def least(self) -> float:
        """The smallest value that this principle knows."""
        return float(self.model.value_at(self.model.ends[0]))

    @property
    def scatter_at_foot(self) -> float:
        """Sd in steps of one determination where the scale begins."""
        low = np.array([max(self.model.ends[0], 0.0)])
        return float(self.model.scatter(low)[0])

    @property
    def arithmetic(self) -> str:
        """What one step stands for and where that comes from, in one line; empty without one."""
        return ""

    # The value.

    @cached_property
    def model(self) -> ScaleModel:
        """The forward model."""
        raise NotImplementedError

    def value(
        self, used: Sequence[Reading], every: Sequence[Reading], blanks: Sequence[Reading] = ()
    ) -> Value:
        """The reported value of the determinations *used*; the interval knows *every* one."""
        if any(seen.kind == "absent" for seen in used):
            return self.absent()
        outside = next((s for s in used if s.kind in ("beyond", "below")), None)
        if outside:
            return self.bound(outside, blanks)
        mean = self.mean(used, blanks)
        value = Value(
            self.measures.quantity,
            float(mean),
            self.measures.decimals,
            self.interval(every, blanks),
            how=self.words,
            rounding=self.measures.rounding,
            one_sided=self.one_sided(every, blanks),
        )
        kept = [found for seen in used if (found := self.bracket(seen))]
        if len(kept) == len(used):
            ends = min(low for low, _ in kept), max(high for _, high in kept)
            value = replace(value, bracket=ends if ends[0] < ends[1] else None)
        return value

    def sample_value(
        self,
        used: Sequence[Reading],
        every: Sequence[Reading],
        blanks: Sequence[Reading] = (),
        times: float = 1,
        base: float = 1,
    ) -> Value:
        """The value in the sample as it was taken: multiplied back where it was diluted *times*,
        of which the decimals reckon with *base*, and corrected for the lot."""
        value = self.value(used, every, blanks)
        return value.scaled(times * self.correction, base * self.correction)

    @property
    def absent_below(self) -> str:
        """What the end colour before the first step means: below this; empty where it cannot be
        said."""
        return getattr(self.part, "absent_below", None) or ""

    def absent(self) -> Value:
        """There is none: below the method's bound."""
        bound = float(self.absent_below)
        return Value(
            self.measures.quantity, bound, self.measures.decimals, Interval(0.0, bound), "<",
            self.words, said=f"absent, < {self.absent_below}",
        )  # fmt: skip

    def mean(self, used: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Decimal:
        """The mean of what the determinations report, less the blank where it is subtracted."""
        mean = sum((self.number(seen) for seen in used), Decimal(0)) / len(used)
        if self.subtract and blanks:
            mean = max(mean - self.number(blanks[-1]), Decimal(0))
        return mean

    def bound(self, seen: Reading, blanks: Sequence[Reading] = ()) -> Value:
        """The bound that a reading outside the scale leaves."""
        below = seen.kind == "below"
        edge = self.edges(seen)[1 if below else 0]
        end = self.model.bound(edge, [self.edges(blank) for blank in blanks], below, self.asked)
        return Value(
            self.measures.quantity,
            float(self.number(replace(seen, kind="plain"))),
            self.measures.decimals,
            Interval(None, end) if below else Interval(end, None),
            "<" if below else ">",
            self.words,
        )

    def interval(self, every: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Interval:
        """The 95 % interval from every determination that was not rejected."""
        found = self.model.interval(
            [self.edges(seen) for seen in every], [self.edges(blank) for blank in blanks]
        )
        return Interval(*found)

    def given(
        self, every: Sequence[Reading], z: float, common: float, count: int, slip: float
    ) -> Any:
        """*count* values that stand for the truth where what is shared has the size *z* sd, with
        this probability of a slip."""
        return self.model.given([self.edges(seen) for seen in every], z, common, count, slip)

    def one_sided(self, every: Sequence[Reading], blanks: Sequence[Reading] = ()) -> Interval:
        """The truths for which readings at least this high, or this low, are just rare enough for
        a verdict, in the unit of the stage."""
        found = self.model.one_sided(
            [self.edges(seen) for seen in every], [self.edges(blank) for blank in blanks]
        )
        return Interval(*found)

    def working(self, used: Sequence[Reading], blanks: Sequence[Reading], value: Value) -> str:
        """What was done with the readings, in one line; nothing where nothing was."""
        if used[0].kind == "absent":
            return f"the end colour before the first step: absent, below {self.absent_below}"
        said = ", ".join(self.format_reading(seen) for seen in used)
        if len(used) > 1:
            return f"mean of {said} = {value.text}"
        shown = said.split(" ")[0]
        if value.figure in (said, shown):
            return ""
        rounds = not value.qualifier and shown.replace(".", "").isdecimal()
        return f"{said}{', rounded' if rounds else ''}: {value.text}"

    def explain_offset(self, value: Value, blanks: Sequence[Reading]) -> str:
        """Why the reported figure lies outside its own interval, when it does."""
        if value.lies_in_its_range:
            return ""
        return "The kit reports an edge of its step, so the true value lies beside it."

    # With another influence: for budgets, for what would decide, for dilution.

    def with_scaled_source(self, of: str, share: float) -> "ReadingType":
        """The same reader with one influence *share* times as large."""
        changed = []
        for influence in self.influences:
            if influence.of == of:
                if influence.distribution == "uniform":
                    low, high = influence.low or 0.0, influence.high or 0.0
                    middle, half = (low + high) / 2, (high - low) / 2 * share
                    sizes = {"low": middle - half, "high": middle + half}
                else:
                    least = STEADY if self.knowledge(of).effect == "steps" else 1e-6
                    sizes = {"sd": max((influence.sd or 0.0) * share, least)}
                influence = influence.model_copy(update=sizes)
            changed.append(influence)
        return replace(self, influences=tuple(changed))

    def shifted(self, place: float) -> "ReadingType":
        """The same reader with its even shift known to be *place* steps."""
        known = {"low": place, "high": place}
        changed = tuple(
            i.model_copy(update=known) if i.distribution == "uniform" else i
            for i in self.influences
        )
        return replace(self, influences=changed)

    def with_standard(self) -> "ReadingType":
        """The same reader when a standard has shown what all its determinations share."""
        total, found = self.spread.shared_relative(), self
        for influence in self.influences:
            if influence.scope == "shared" and influence.distribution == "normal":
                relative = self.knowledge(influence.of).effect == "relative"
                share = (
                    min(1.0, SD_AFTER_STANDARD / total)
                    if relative and total
                    else SHARE_AFTER_STANDARD
                )
                found = found.with_scaled_source(influence.of, share)
        return found

    def more_precise_option(
        self, every: Sequence[Reading], blanks: Sequence[Reading]
    ) -> tuple[str, Interval] | None:
        """A finer way of the same principle, in words, and the interval it would leave."""
        return None

    def diluted(self, sd: float) -> "ReadingType":
        """The same reader for a sample that was diluted with this relative sd."""
        extra = UncertaintySource(of="dilution", sd=sd, scope="determination", source="default")
        return replace(self, influences=(*self.influences, extra))

    def with_lot_recovery(self) -> "ReadingType":
        """The same reader with the doubt of what its lot finds; itself where nobody measured it."""
        recovery = self.lot.recovery
        if not recovery or not recovery.sd:
            return self
        extra = UncertaintySource(
            of="lot-recovery", sd=recovery.sd, scope="shared", key="lot",
            whose=self.reagent or None, source="replicates",
        )  # fmt: skip
        return replace(self, influences=(*self.influences, extra))

    @cached_property
    def spread(self) -> Any:
        """The sizes of the influences, ready to compute with."""
        return spread(self.influences, self._known)

    def knowledge(self, of: str) -> SourceInfo:
        """What the principle knows about an influence."""
        return self._known[of]

    @property
    def _known(self) -> dict[str, SourceInfo]:
        return {**self.knows, "dilution": DILUTION, "lot-recovery": LOT_RECOVERY}

    def shown(self, number: float | Decimal) -> str:
        """A number with the decimals that the stage reports."""
        return figure(number, self.measures.decimals, self.measures.rounding)

    def __hash__(self) -> int:
        return hash((self.by, self.part, self.measures, self.influences, self.subtract, self.lots))


def plain(number: Decimal) -> str:
    """A number without trailing zeros, two decimals at most: 7.5, 8."""
    return figure(number, 2).rstrip("0").rstrip(".")
