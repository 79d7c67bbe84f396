"""What sets two methods apart, line by line."""

from dataclasses import dataclass

from kessa_core.drafts.trial import example_value
from kessa_core.finding import MethodFacts
from kessa_core.methods import Method

Side = tuple[MethodFacts, Method]


@dataclass(frozen=True)
class Line:
    """One line of the table. differ: whether the two say something else."""

    name: str
    first: tuple[str, ...]
    second: tuple[str, ...]

    @property
    def differ(self) -> bool:
        return self.first != self.second


def compared(first: Side, second: Side) -> list[Line]:
    """Range, uncertainty, time, sample, hazards, reagents and limits of use of two methods."""
    return [
        Line(name, left, right)
        for (name, left), (_, right) in zip(_lines(first), _lines(second), strict=True)
    ]


def _lines(side: Side) -> list[tuple[str, tuple[str, ...]]]:
    facts, method = side
    needs = method.sample
    return [
        ("Kit", (facts.kit,)),
        ("Reading type", facts.principles),
        ("Measures", tuple(f"{one.name}: {one.reach or one.unit}" for one in facts.stages)),
        ("An example and its range", tuple(_example(method))),
        ("One measurement takes about", (facts.duration,)),
        ("Measurements", tuple(stage.repeat_words for stage in method.stages)),
        ("Sample for one measurement", (f"{needs.volume_ml:g} mL",) if needs.volume_ml else ()),
        ("Not for water that is", facts.not_for),
        ("Interferences", tuple(f"{one.what}: {one.does}" for one in needs.interferes)),
        ("Hazards", facts.hazards),
        ("Reagents", tuple(one.name for one in method.reagents)),
    ]


def _example(method: Method) -> list[str]:
    """What one reading would come to."""
    said = []
    for stage in method.stages:
        if stage.reader().has_scale and not stage.reference:
            value = example_value(stage).scaled(float(stage.base), stage.base)
            said.append(f"{value.text}, {value.range_text}".strip(", "))
    return said
