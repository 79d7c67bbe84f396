"""What a method is chosen by: what it measures and how far, how long it takes, what it needs."""

from dataclasses import dataclass

from kessa_core.finding.materials import Material, materials_of
from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import duration_words
from kessa_core.quantities import Value
from kessa_core.sheets.compile import seconds_of


@dataclass(frozen=True)
class StageFacts:
    """One result of a method. low, high: of its scale, in unit; both None where it has none."""

    parameter: str
    name: str
    unit: str
    low: float | None
    high: float | None
    reach: str


@dataclass(frozen=True)
class MethodFacts:
    """One method. seconds: of one measurement of every result, waits included; lots: the reagents
    whose lot is recorded; not_for: the waters it is not for; text: what typed words are sought in.
    """

    id: str
    title: str
    kit: str
    principles: tuple[str, ...]
    stages: tuple[StageFacts, ...]
    seconds: int
    hazards: tuple[str, ...]
    not_for: tuple[str, ...]
    lots: tuple[str, ...]
    materials: tuple[Material, ...]
    text: str

    @property
    def duration(self) -> str:
        """How long it takes, in words."""
        return duration_words(self.seconds)


def facts_of(method: Method) -> MethodFacts:
    """What *method* is chosen by."""
    stages = tuple(_stage(stage) for stage in method.stages)
    names = [one.name for one in stages]
    said = [method.title, method.short, method.kit, *names, *method.principles]
    return MethodFacts(
        method.id,
        method.title,
        method.kit,
        tuple(method.principles),
        stages,
        sum(map(seconds_of, method.before)) + sum(map(_seconds, method.stages)),
        method.hazards,
        tuple(one.water for one in method.sample.not_for),
        tuple(one.name for one in method.reagents if one.lot),
        tuple(materials_of([method]).values()),
        " ".join(said).lower(),
    )


def _seconds(stage: Stage) -> int:
    return sum(map(seconds_of, (*stage.prepare, *stage.steps_for("sample"))))


def _stage(stage: Stage) -> StageFacts:
    quantity, reader = stage.measures.quantity, stage.reader()
    key, name, unit = quantity.parameter, quantity.name, quantity.label
    if not reader.has_scale:
        return StageFacts(key, name, unit, None, None, "")
    values = [reader.value([seen], [seen]) for seen in map(reader.example, reader.reach)]
    low, high = sorted((one.scaled(float(stage.base), stage.base) for one in values), key=_number)
    shown = "" if quantity.unit == "degree" else unit
    reach = f"{low.figure} to {high.figure} {shown}".strip()
    if low.said:
        return StageFacts(key, name, shown, None, None, reach)
    return StageFacts(key, name, shown, _number(low), _number(high), reach)


def _number(value: Value) -> float:
    """As it is shown: who looks for the printed end of a scale finds it."""
    return round(float(value.number), value.decimals)
