"""Gauges for templates: positions on the drawing from the core's shares."""

from dataclasses import dataclass
from typing import Any

from kessa_core.judging import Gauge, Limit, gauge
from kessa_core.judging.comparing import Sign
from kessa_core.judging.context import PointContext
from kessa_core.quantities import Interval, Value

WIDTH = 1000


@dataclass(frozen=True)
class GaugeView:
    """A gauge with every position in thousandths of its length."""

    gauge: Gauge
    label: str
    value: Value | None = None

    @property
    def figure(self) -> str:
        """The reported figure without its qualifier."""
        return self.value.figure.lstrip("<> ") if self.value else ""

    @property
    def unit(self) -> str:
        return self.value.quantity.label if self.value else ""

    @property
    def range(self) -> str:
        return self.value.range_text if self.value else ""

    @property
    def tint(self) -> tuple[int, int] | None:
        return _span(self.gauge.tint)

    @property
    def usual(self) -> tuple[int, int] | None:
        return _span(self.gauge.usual)

    @property
    def whisker(self) -> tuple[int, int] | None:
        return _span(self.gauge.whisker)

    @property
    def ticks(self) -> list[int]:
        return [round(tick * WIDTH) for tick in self.gauge.ticks]

    @property
    def mark(self) -> int | None:
        return None if self.gauge.mark is None else round(self.gauge.mark * WIDTH)


def draw(
    value: Value | None,
    limits: tuple[Limit, ...],
    sign: Sign,
    words: str,
    usual: Interval | None = None,
) -> GaugeView:
    """The gauge of a value with its words for screen readers."""
    made = gauge(value, limits, sign, words, usual)
    said = value.text + ", " + value.range_text if value else "no reading"
    ticks = ", ".join(f"{limit.name} {limit.bounds_text}" for limit in limits)
    return GaugeView(made, f"{said}; {words}{'; limits ' + ticks if ticks else ''}", value)


def bare_gauges(setting: PointContext, tops: list[float]) -> list[GaugeView]:
    """One gauge without a value for each scale; the bench puts the mark on it."""
    band: Any = setting.usual_band
    return [
        GaugeView(gauge(None, setting.limits, "none", "", band, top), "Gauge without a reading")
        for top in tops
    ]


def _span(shares: tuple[float, float] | None) -> tuple[int, int] | None:
    if shares is None:
        return None
    left, right = (round(share * WIDTH) for share in shares)
    return left, max(right - left, 1)
