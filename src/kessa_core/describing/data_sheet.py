"""The lines of a blank data sheet, in the order of the work."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from kessa_core.describing.timeline import wait_words
from kessa_core.methods import Method
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Step

NAMES = {
    "blank": "Blank",
    "standard": "Standard",
    "reference": "Reference",
    "first": "First measurement",
    "second": "Second measurement",
    "third": "Third measurement, if needed",
    "spike": "Spike",
}


@dataclass(frozen=True)
class Entry:
    """One line: what is done, the boxes to tick, the fields to write in."""

    title: str
    boxes: tuple[str, ...] = ()
    fields: tuple[str, ...] = ()


@dataclass(frozen=True)
class Block:
    """A heading with its lines."""

    heading: str
    entries: tuple[Entry, ...]


def data_sheet(method: Method) -> tuple[Block, ...]:
    """Everything that is written down: answers, times of clocks, counts and readings, results. Two
    colours of one flask stand flask by flask."""
    made = [Block("Before the test", tuple(_entries(method.before)))] if method.before else []
    at = 0
    while at < len(method.stages):
        flask = [method.stages[n] for n in method.flask(at)]
        for role in _roles(flask):
            made += [_block(stage, role, len(method.stages) > 1) for stage in flask]
        at += len(flask)
    made.append(Block("Results", tuple(_results(method))))
    return tuple(block for block in made if block.entries)


def _roles(flask: list[Stage]) -> tuple[str, ...]:
    """The measurements of these stages in order: those before the sample, then the sample's."""
    before = dict.fromkeys(role for stage in flask for role in stage.roles)
    most = max(stage.repeats.least for stage in flask)
    sample = ("first", "second", "third") if most > 1 else ("first",)
    spike = ("spike",) if any(stage.spike for stage in flask) else ()
    return (*before, *sample, *spike)


def _block(stage: Stage, role: str, several: bool) -> Block:
    name = f"{stage.title}: {NAMES[role].lower()}" if several else NAMES[role]
    of = role if role in ("blank", "standard", "reference", "spike") else "sample"
    if of in ("blank", "standard", "reference") and of not in stage.roles:
        return Block(name, ())
    prepared = stage.prepare if role == "first" else ()
    entries = [*_entries(prepared), *_entries(stage.steps_for(of), stage)]
    return Block(name, tuple(entries))


def _entries(steps: Iterable[Step], stage: Stage | None = None) -> Iterator[Entry]:
    """A line for every step at which something is written."""
    reader = stage.reader() if stage else None
    for step in steps:
        if step.kind == "check":
            yield Entry(step.title, tuple(answer.label for answer in step.answers))
        elif step.wait:
            yield Entry(f"{step.title}: {wait_words(step.wait)}", (), ("from", "to"))
        elif step.kind == "count" and reader:
            yield Entry(step.title, ("in doubt",), (reader.step_unit,))
        elif step.kind == "read" and reader and step.slot:
            yield Entry(step.title, (), (reader.scale(step.slot).unit or "reading",))


def _results(method: Method) -> Iterator[Entry]:
    titles = [stage.title for stage in method.stages] + [one.title for one in method.derived]
    for title, quantity in zip(titles, method.quantities, strict=True):
        yield Entry(title, (), (quantity.label,))
