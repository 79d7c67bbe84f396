"""The log as CSV: RFC 4180, UTF-8, units and bases in columns of their own.

One row a result; below it, with status "struck", a row for each evaluation that no longer stands.
"""

import csv
from collections.abc import Iterable, Iterator
from datetime import UTC, datetime
from zoneinfo import ZoneInfo

from kessa.results.models import Evaluation, Result
from kessa.visits.services import standing
from kessa_core.runs.state import SAMPLE_ROLES

COLUMNS = (
    "result", "run", "status", "struck_utc", "struck_by", "struck_why", "decided_by",
    "decided_utc", "decision_reason", "outcome", "water", "point", "sampled_utc",
    "sampled_local", "zone",
    "parameter", "stage", "form", "qualifier", "value", "unit", "basis", "low_95", "high_95",
    "bracket_low", "bracket_high", "said", "how",
    "verdict", "verdict_reported", "limit", "limit_set", "limit_edition", "read", "blank_read",
    "working", "cause", "flags", "method", "method_version", "method_hash", "lot", "taken_by",
    "tested_by", "weather_now", "weather_last_24_h", "water_c", "air_c", "depth_cm", "seen",
    "continues_run", "core_version", "evaluated_utc",
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
        newer = None
        for evaluation in result.evaluations.all():
            yield writer.writerow(_row(result, evaluation, newer))
            newer = evaluation


def _standing(result: Result, newer: Evaluation | None) -> list[object]:
    """Status, what struck the row, and what a reviewer decided."""
    if newer:
        by = _text(str(newer.made_by or ""))
        return ["struck", _utc(newer.made_at), by, _text(newer.why), "", "", ""]
    last = next((r for r in result.reviews.all() if r.decision in ("accept", "reject")), None)
    decided = result.status in (Result.Status.REVIEWED, Result.Status.REJECTED)
    if not decided or not last:
        return [result.status, "", "", "", "", "", ""]
    return [result.status, "", "", "", _text(str(last.by)), _utc(last.at), _text(last.reason)]


def _utc(at: datetime) -> str:
    return at.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _row(result: Result, e: Evaluation, newer: Evaluation | None) -> list[object]:
    run, sample = result.run, result.run.sample
    context = e.context or standing(sample)
    taken = datetime.fromisoformat(context["taken_at"])
    leads = max((v for v in e.verdicts.all() if v.leads), key=lambda v: v.round, default=None)
    limit = leads.limit if leads else None
    zone = sample.zone or "UTC"
    local = taken.astimezone(ZoneInfo(zone))
    kept = [d for d in e.determinations if not d["rejected"]]
    return [
        result.pk,
        run.pk,
        *_standing(result, newer),
        e.finish,
        _text(result.point.water.name),
        _text(result.point.name),
        _utc(taken),
        local.strftime("%Y-%m-%dT%H:%M:%S%z"),
        zone,
        result.parameter,
        result.stage,
        e.form,
        e.qualifier,
        e.figure.lstrip("<> "),
        e.unit,
        e.basis,
        _number(e.low),
        _number(e.high),
        _number(e.bracket_low),
        _number(e.bracket_high),
        e.said,
        e.how,
        leads.code if leads else "",
        leads.reported_code if leads else "",
        limit.limit_id if limit else "",
        limit.limit_set if limit else "",
        limit.edition if limit else "",
        "; ".join(d["words"] for d in kept if d["role"] in SAMPLE_ROLES),
        "; ".join(d["words"] for d in kept if d["role"] == "blank"),
        e.working,
        e.cause,
        "; ".join(e.flags),
        run.version.method_id,
        run.version.number,
        e.method_hash,
        _text("; ".join(lot.number for lot in run.lots)),
        _text(str(sample.taken_by or "")),
        _text(str(run.opened_by)),
        context["weather_now"],
        context["weather_before"],
        _degrees(context["water_c"]),
        _degrees(context["air_c"]),
        context.get("depth_cm", ""),
        "; ".join(context["seen"]),
        run.continues_id or "",
        e.core_version,
        _utc(e.made_at),
    ]


def _degrees(typed: str | None) -> str:
    return "" if typed is None else typed


def _number(number: float | None) -> str:
    return "" if number is None else f"{number:.4g}"


def _text(text: str) -> str:
    """Text that people typed; a leads sign would be run as a formula by spreadsheets."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t") else text
