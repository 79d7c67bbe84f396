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
    reader = stage.reader(lots).with_lot_recovery()
    return reader.diluted(stage.predilution.sd) if stage.predilution else reader


def working_line(
    reader: ReadingType,
    used: Sequence[Reading],
    blanks: Sequence[Reading],
    times: int,
    value: Value,
) -> str:
    """What was done with the readings. Of a diluted or corrected sample: what was read, in figures
    fine enough to be multiplied, the dilution, and what the lot finds of a standard."""
    recovery = reader.lot.recovery
    if times == 1 and not recovery:
        return reader.working(used, blanks, value)
    plain = reader.value(used, used, blanks)
    finer = len(str(times)) if times > 1 else 1
    read = replace(plain, decimals=plain.decimals + finer)
    parts = [reader.working(used, blanks, read) or read.text]
    if times > 1:
        parts.append(f"× {times} for the dilution")
    if recovery:
        parts.append(f"÷ {recovery.number:.3g} because {_lot_words(reader)}")
    return f"{', '.join(parts)} = {value.text}"


def _lot_words(reader: ReadingType) -> str:
    percent = 100 * reader.lot.recovery.number if reader.lot.recovery else 100.0
    return f"lot {reader.lot.number} finds {percent:.3g} % of a standard"
