"""Before a visit: when it is due, what to pack, and how much sample it takes."""

from kessa_core.preparing.packing import PackedTest, Packing, pack
from kessa_core.preparing.rhythm import Rhythm, Standing, read_rhythm, standing_of

__all__ = [
    "PackedTest",
    "Packing",
    "Rhythm",
    "Standing",
    "pack",
    "read_rhythm",
    "standing_of",
]
