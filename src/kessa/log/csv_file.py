"""The log as CSV: RFC 4180, UTF-8, one row a result, units and bases in columns of their own."""

import csv
from collections.abc import Iterable, Iterator
from zoneinfo import ZoneInfo

from kessa.log.models import Result

COLUMNS = (
    "result", "run", "status", "outcome", "water", "point", "sampled_utc", "sampled_local", "zone",
    "parameter", "form", "qualifier", "value", "unit", "basis", "low_95", "high_95",
    "verdict", "verdict_reported", "limit", "limit_set", "limit_edition", "drops", "blank_drops",
    "working", "cause", "flags", "method", "method_version", "method_hash", "lot", "taken_by",
    "tested_by", "weather_now", "weather_last_24_h", "water_c", "air_c", "seen", "continues_run",
    "core_version", "evaluated_utc",
)  # fmt: skip


class _Line:
    """A file that hands back what is written to it."""

    def write(self, text: str) -> str:
        return text


def lines(results: Iterable[Result]) -> Iterator[str]:
    """The file, line by line, with its header."""
    writer = csv.writer(_Line(), lineterminator="\r\n")
    yield writer.writerow(COLUMNS)
    for result in results:
        yield writer.writerow(_row(result))


def _row(result: Result) -> list[object]:
    e, run, sample = result.current, result.run, result.run.sample
    value = e.value_of(result.parameter)
    zone = sample.zone or "UTC"
    local = result.sampled_at.astimezone(ZoneInfo(zone))
    kept = [d for d in e.determinations if not d["rejected"]]
    return [
        result.pk,
        run.pk,
        result.status,
        e.finish,
        _text(result.point.water.name),
        _text(result.point.name),
        result.sampled_at.strftime("%Y-%m-%dT%H:%M:%SZ"),
        local.strftime("%Y-%m-%dT%H:%M:%S%z"),
        zone,
        result.parameter,
        e.form,
        e.qualifier,
        value.figure.lstrip("<> ") if value else "",
        e.unit,
        e.basis,
        _number(e.low),
        _number(e.high),
        e.sign,
        e.reported_sign,
        e.limit_id,
        e.limit_set,
        e.limit_edition,
        "; ".join(d["words"] for d in kept if d["role"] != "blank"),
        "; ".join(d["words"] for d in kept if d["role"] == "blank"),
        e.working,
        e.cause,
        "; ".join(e.flags),
        run.version.method_id,
        run.version.version,
        e.method_hash,
        _text(run.lot.number) if run.lot else "",
        _text(str(sample.taken_by or "")),
        _text(str(run.opened_by)),
        sample.weather_now,
        sample.weather_before,
        "" if sample.water_c is None else sample.water_c,
        "" if sample.air_c is None else sample.air_c,
        "; ".join(sample.seen),
        run.continues_id or "",
        e.core_version,
        e.made_at.strftime("%Y-%m-%dT%H:%M:%SZ"),
    ]


def _number(number: float | None) -> str:
    return "" if number is None else f"{number:.4g}"


def _text(text: str) -> str:
    """Text that people typed; a leading sign would be run as a formula by spreadsheets."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t") else text
