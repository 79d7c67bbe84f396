"""Every reading principle by the name that a method document gives it."""

from typing import Annotated, Any

from pydantic import Field

from kessa_core.readings.dispensed import (
    Burette,
    BurettePart,
    DigitalTitrator,
    DigitalTitratorPart,
    Syringe,
    SyringePart,
)
from kessa_core.readings.dropcount import DropCount, DropCountPart
from kessa_core.readings.external_result import ExternalResult, ExternalResultPart
from kessa_core.readings.graded import Graded, GradedPart
from kessa_core.readings.height import StripHeight, StripHeightPart
from kessa_core.readings.meter import Meter, MeterPart, Sensor, SensorPart
from kessa_core.readings.photometer import Photometer, PhotometerPart
from kessa_core.readings.presence import Presence, PresencePart
from kessa_core.readings.printed import PrintedScale, PrintedScalePart
from kessa_core.readings.reading_type import ReadingType
from kessa_core.readings.shades import Comparator, ComparatorPart, StripPad, StripPadPart
from kessa_core.readings.sight import SecchiDisc, SecchiDiscPart, TurbidityTube, TurbidityTubePart
from kessa_core.readings.table import Table, TablePart
from kessa_core.readings.tablets import TabletCount, TabletCountPart

READERS: dict[str, type[ReadingType]] = {
    reader.by: reader
    for reader in (
        DropCount, TabletCount, Burette, DigitalTitrator, Syringe, Comparator, StripPad,
        StripHeight, Photometer, Meter, Sensor, SecchiDisc, TurbidityTube, PrintedScale, Graded,
        ExternalResult, Table, Presence,
    )
}  # fmt: skip

ReadingPart = Annotated[
    DropCountPart
    | TabletCountPart
    | BurettePart
    | DigitalTitratorPart
    | SyringePart
    | ComparatorPart
    | StripPadPart
    | StripHeightPart
    | PhotometerPart
    | MeterPart
    | SensorPart
    | SecchiDiscPart
    | TurbidityTubePart
    | PrintedScalePart
    | GradedPart
    | ExternalResultPart
    | TablePart
    | PresencePart,
    Field(discriminator="by"),
]


def get_reading_type(part: Any) -> type[ReadingType]:
    """The principle of a reading part."""
    return READERS[part.by]
