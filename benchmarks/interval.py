"""Interval for three determinations (goal 5 ms), and compiling a sheet (goal 200 ms)."""

import gzip
import json
import time
from collections.abc import Callable

from tools.serving import spread

from kessa_core.judging import limit_set
from kessa_core.judging.context import PointContext
from kessa_core.methods import shipped, shipped_ids
from kessa_core.quantities import Interval
from kessa_core.readings import counting, scale_model
from kessa_core.readings.reading import Count
from kessa_core.sheets import compile as sheets
from kessa_core.sheets import compile_sheet
from kessa_core.trends.usual import Usual

METHOD = shipped("chloride-drops-15ml")
LIMITS = limit_set("ccme-freshwater").limits
SETTING = PointContext(LIMITS, Usual(8, 48.5, Interval(41.0, 58.0)))
ELSEWHERE = [
    PointContext(LIMITS, Usual(8, 48.5 + more, Interval(41.0, 58.0 + more))) for more in range(30)
]


def forget() -> None:
    for room in (counting, scale_model, sheets):
        for kept in vars(room).values():
            if hasattr(kept, "cache_clear"):
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
    return READER.interval([Count(7), Count(12), Count(8)], [Count(2)])


def sizes() -> list[tuple[int, int, str]]:
    """Every shipped method's sheet at this place: compressed and plain bytes."""
    made = []
    for name in shipped_ids():
        plain = json.dumps(compile_sheet(shipped(name), SETTING), ensure_ascii=False).encode()
        made.append((len(gzip.compress(plain)), len(plain), name))
    return sorted(made, reverse=True)


READER = METHOD.stages[0].reader()
print("interval, three determinations, nothing kept:", spread(timed(three, 200, cold=True)))
print("sheet, nothing kept:", spread(timed(lambda: compile_sheet(METHOD, SETTING), 15, cold=True)))
places = iter(ELSEWHERE)
print(
    "sheet of another place, intervals kept:",
    spread(timed(lambda: compile_sheet(METHOD, next(places)), 30, cold=False)),
)
print(
    "sheet that was made before:",
    spread(timed(lambda: compile_sheet(METHOD, SETTING), 30, cold=False)),
)
for other in sorted(set(shipped_ids()) - {METHOD.id}):
    method = shipped(other)
    once = timed(lambda method=method: compile_sheet(method, SETTING), 3, cold=True)
    print(f"  {other}, nothing kept: {min(once):.0f} ms")
for small, plain, name in sizes()[:3]:
    print(f"heaviest sheets: {name}, {small} bytes compressed, {plain} plain")
