"""Interval for three determinations (goal 5 ms), and compiling a sheet (goal 200 ms)."""

import json
import time
from collections.abc import Callable

from tools.serving import spread

from kessa_core.judging import limit_set
from kessa_core.methods import shipped
from kessa_core.readings import dropcount
from kessa_core.readings.dropcount import DropReading, drop_model
from kessa_core.sheets import Setting, compile_sheet
from kessa_core.trends.usual import usual

METHOD = shipped("chloride-drops-15ml")
SETTING = Setting(limit_set("ccme-freshwater").limits, usual([40, 42, 45, 47, 50, 51, 55, 60]))


def forget() -> None:
    for kept in (dropcount._interval, dropcount._curve):
        kept.cache_clear()


def timed(work: Callable[[], object], runs: int, cold: bool) -> list[float]:
    times = []
    for _ in range(runs):
        if cold:
            forget()
        begun = time.perf_counter()
        work()
        times.append((time.perf_counter() - begun) * 1000)
    return times


def three() -> object:
    readings = [DropReading(7), DropReading(12), DropReading(8)]
    return drop_model(METHOD).interval(readings, [DropReading(2)])


drop_model(METHOD)
print("interval, three determinations, nothing kept:", spread(timed(three, 200, cold=True)))
print("sheet, nothing kept:", spread(timed(lambda: compile_sheet(METHOD, SETTING), 15, cold=True)))
print(
    "sheet, intervals kept:", spread(timed(lambda: compile_sheet(METHOD, SETTING), 30, cold=False))
)
print("sheet:", len(json.dumps(compile_sheet(METHOD, SETTING))), "bytes of JSON")
