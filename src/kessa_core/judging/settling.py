"""Which methods would give a clear verdict where one was too close to call."""

from collections.abc import Iterable
from dataclasses import dataclass

from kessa_core.errors import NoConversion
from kessa_core.finding.facts import facts_of
from kessa_core.judging.can_see import SEES, Visibility, can_see
from kessa_core.judging.comparing import Sign
from kessa_core.judging.limits import DECIDED_BY, Limit
from kessa_core.methods import Method
from kessa_core.methods.steps import duration_words
from kessa_core.quantities import Value


@dataclass(frozen=True)
class Settling:
    """A method that would settle it. sign: what it would call a sample that holds what was read;
    none where that is only known as a bound. seconds: of its measurements, waits included."""

    method: Method
    sign: Sign
    seconds: int

    @property
    def duration(self) -> str:
        """How long it takes, in words."""
        return duration_words(self.seconds)


def settled_by(value: Value, limit: Limit, methods: Iterable[Method]) -> tuple[Settling, ...]:
    """Those of *methods* that would call a sample like this clearly within the limit or outside it,
    with the kit's own bottles and the measurements each asks for, the quickest first.

    Of a bound: those that can tell both sides of the limit. None against a limit that one sample
    cannot decide.
    """
    if limit.statistic in DECIDED_BY:
        return ()
    found = []
    for method in methods:
        signs = {
            sign
            for stage in method.stages
            if stage.measures.quantity.parameter == limit.parameter
            and (told := can_see(stage, limit)) is not None
            and (sign := _sign(told, value)) is not None
        }
        if signs:
            found.append(Settling(method, signs.pop(), facts_of(method).seconds))
    return tuple(sorted(found, key=lambda one: (one.seconds, one.method.id)))


def _sign(told: Visibility, value: Value) -> Sign | None:
    """What a method would call a sample that holds *value*; None where that is not clear."""
    if value.qualifier:
        return "none" if told.words == SEES else None
    quantity = told.stretches[0].first.quantity
    try:
        number = value.converted(basis=quantity.basis, unit=quantity.unit).number
    except NoConversion:
        return None
    for stretch in told.stretches:
        if stretch.first.qualifier or stretch.last.qualifier:
            continue
        if stretch.first.number <= number <= stretch.last.number:
            return stretch.sign if stretch.sign in ("within", "beyond") else None
    return None
