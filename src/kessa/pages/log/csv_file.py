"""The log as CSV: RFC 4180, UTF-8, units and bases in columns of their own.

One row a result; below it, with status "struck", a row for each evaluation that no longer stands.
The database makes the rows, so that a long log streams with flat memory.
"""

import csv
import io
from collections.abc import Iterator, Sequence
from typing import Any

from django.db import connection, transaction

from kessa.results.queries import ResultQuery
from kessa_core.runs.state import SAMPLE_ROLES

AT_ONCE = 500
MOMENT = "to_char({} AT TIME ZONE 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')"
LISTED = "(SELECT string_agg(one, '; ') FROM jsonb_array_elements_text({}) AS one)"
WORDS = (
    "(SELECT string_agg(d ->> 'words', '; ') FROM jsonb_array_elements(e.determinations) AS d "
    "WHERE d ->> 'rejected' = '' AND d ->> 'role' IN ({}))"
)
TAKEN = "(e.context ->> 'taken_at')::timestamptz"
ZONE = "coalesce(nullif(s.zone, ''), 'UTC')"
APART = f"extract(epoch FROM ({TAKEN} AT TIME ZONE {ZONE}) - ({TAKEN} AT TIME ZONE 'UTC'))::int"
LOCAL = (
    f"to_char({TAKEN} AT TIME ZONE {ZONE}, 'YYYY-MM-DD\"T\"HH24:MI:SS') "
    f"|| CASE WHEN {APART} < 0 THEN '-' ELSE '+' END "
    f"|| lpad((abs({APART}) / 3600)::text, 2, '0') || lpad((abs({APART}) / 60 % 60)::text, 2, '0')"
)
ROLES = ", ".join(f"'{role}'" for role in SAMPLE_ROLES)
NAME = "coalesce(nullif({0}.shown_name, ''), {0}.username)"
STANDING = "newer.id IS NULL AND r.status IN ('reviewed', 'rejected')"
COLUMNS = {
    "result": "r.id",
    "run": "r.run_id",
    "status": "CASE WHEN newer.id IS NULL THEN r.status ELSE 'struck' END",
    "struck_utc": MOMENT.format("newer.made_at"),
    "struck_by": NAME.format("striker"),
    "struck_why": "newer.why",
    "decided_by": f"CASE WHEN {STANDING} THEN {NAME.format('decider')} END",
    "decided_utc": f"CASE WHEN {STANDING} THEN {MOMENT.format('decision.at')} END",
    "decision_reason": f"CASE WHEN {STANDING} THEN decision.reason END",
    "outcome": "e.finish",
    "water": "w.name",
    "point": "p.name",
    "sampled_utc": MOMENT.format(TAKEN),
    "sampled_local": LOCAL,
    "zone": ZONE,
    "parameter": "r.parameter",
    "stage": "r.stage",
    "form": "e.form",
    "qualifier": "e.qualifier",
    "value": "ltrim(e.figure, '<> ')",
    "unit": "e.unit",
    "basis": "e.basis",
    "low_95": "e.low",
    "high_95": "e.high",
    "bracket_low": "e.bracket_low",
    "bracket_high": "e.bracket_high",
    "said": "e.said",
    "how": "e.how",
    "verdict": "v.code",
    "verdict_reported": "v.reported_code",
    "limit": "l.limit_id",
    "limit_set": "l.limit_set",
    "limit_edition": "l.edition",
    "read": WORDS.format(ROLES),
    "blank_read": WORDS.format("'blank'"),
    "working": "e.working",
    "cause": "e.cause",
    "flags": LISTED.format("e.flags"),
    "method": "m.method_id",
    "method_version": "m.version || CASE WHEN m.own > 0 THEN '.' || m.own ELSE '' END",
    "method_hash": "e.method_hash",
    "lot": "(SELECT string_agg(one ->> 'number', '; ') FROM jsonb_array_elements(e.lots) AS one)",
    "taken_by": NAME.format("taker"),
    "tested_by": NAME.format("tester"),
    "weather_now": "e.context ->> 'weather_now'",
    "weather_last_24_h": "e.context ->> 'weather_before'",
    "water_c": "e.context ->> 'water_c'",
    "air_c": "e.context ->> 'air_c'",
    "depth_cm": "e.context ->> 'depth_cm'",
    "seen": LISTED.format("e.context -> 'seen'"),
    "continues_run": "run.continues_id",
    "core_version": "e.core_version",
    "evaluated_utc": MOMENT.format("e.made_at"),
}
"""Each column with its expression, in the order of the file."""
NUMBERS = ("low_95", "high_95", "bracket_low", "bracket_high")
SQL = """
SELECT {columns}
FROM results_result r
JOIN results_evaluation e ON e.result_id = r.id
JOIN runs_run run ON run.id = r.run_id
JOIN visits_sample s ON s.id = run.sample_id
JOIN places_point p ON p.id = r.point_id
JOIN places_water w ON w.id = p.water_id
JOIN library_methodversion m ON m.id = run.version_id
JOIN platform_person tester ON tester.id = run.opened_by_id
LEFT JOIN platform_person taker ON taker.id = s.taken_by_id
LEFT JOIN LATERAL (
    SELECT * FROM results_evaluation one WHERE one.result_id = r.id AND one.id > e.id
    ORDER BY one.id LIMIT 1
) newer ON true
LEFT JOIN platform_person striker ON striker.id = newer.made_by_id
LEFT JOIN LATERAL (
    SELECT * FROM verdicts_verdict one WHERE one.evaluation_id = e.id AND one.leads
    ORDER BY one.round DESC LIMIT 1
) v ON true
LEFT JOIN verdicts_judgedlimit l ON l.id = v.limit_id
LEFT JOIN LATERAL (
    SELECT * FROM results_review one WHERE one.result_id = r.id
    AND one.decision IN ('accept', 'reject') ORDER BY one.id DESC LIMIT 1
) decision ON true
LEFT JOIN platform_person decider ON decider.id = decision.by_id
WHERE r.id IN ({results})
ORDER BY r.sampled_at DESC, r.id DESC, e.id DESC
"""


def pieces(results: ResultQuery) -> Iterator[str]:
    """The file in pieces of some hundred lines, with its header."""
    yield _written([list(COLUMNS)])
    chosen, values = results.order_by().values("pk").query.sql_with_params()
    columns = ", ".join(f"{expression} AS {name}" for name, expression in COLUMNS.items())
    statement = SQL.format(columns=columns.replace("%", "%%"), results=chosen)
    with transaction.atomic(), connection.chunked_cursor() as cursor:
        cursor.execute(statement, values)
        while rows := cursor.fetchmany(AT_ONCE):
            yield _written([_cells(row) for row in rows])


_NUMBERS = frozenset(list(COLUMNS).index(name) for name in NUMBERS)


def _cells(row: Sequence[Any]) -> list[Any]:
    return [
        ("" if cell is None else f"{cell:.4g}") if at in _NUMBERS else _guarded(cell)
        for at, cell in enumerate(row)
    ]


def _guarded(cell: Any) -> Any:
    """A cell; text with a leading sign would be run as a formula by spreadsheets."""
    if isinstance(cell, str) and cell[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return f"'{cell}"
    return cell


def _written(rows: list[list[Any]]) -> str:
    text = io.StringIO()
    csv.writer(text, lineterminator="\r\n").writerows(rows)
    return text.getvalue()
