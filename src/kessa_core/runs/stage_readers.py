"""A stage's principle as a run reads with it: the lots in use, and what a dilution adds."""

from collections.abc import Sequence
from dataclasses import replace

from kessa_core.methods.stage import Stage
from kessa_core.quantities import Value
from kessa_core.readings.lots import Lots
from kessa_core.readings.reading import Reading
from kessa_core.readings.reading_type import ReadingType
from kessa_core.runs.state import StageState


def reader_of_run(stage: Stage, held: StageState, lots: Lots) -> ReadingType:
    """The stage's principle; with the doubt of a dilution where the sample was diluted."""
    reader = reader_of_stage(stage, lots)
    return reader.diluted(stage.above.sd) if held.extra else reader


def reader_of_stage(stage: Stage, lots: Lots) -> ReadingType:
    """The stage's principle as every sample of it is read."""
    reader = stage.reader(lots)
    return reader.diluted(stage.predilution.sd) if stage.predilution else reader


def diluted_working(
    reader: ReadingType,
    used: Sequence[Reading],
    blanks: Sequence[Reading],
    times: int,
    value: Value,
) -> str:
    """The working line of a diluted sample: what was read, in figures fine enough to be multiplied,
    and the dilution."""
    plain = reader.value(used, used, blanks)
    line = reader.working(used, blanks, replace(plain, decimals=plain.decimals + len(str(times))))
    return f"{line}, × {times} for the dilution = {value.text}"
