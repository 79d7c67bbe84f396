"""The log as CSV: RFC 4180, UTF-8, units and bases in columns of their own.

One row a result; below it, with status "struck", a row for each evaluation that no longer stands.
The database makes the rows, so that a long log streams with flat memory.
"""

from collections.abc import Iterator
from itertools import islice

from django.db import connection

from kessa.results.queries import ResultQuery
from kessa_core.runs.state import SAMPLE_ROLES

AT_ONCE = 500
MOMENT = "to_char({} AT TIME ZONE 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')"
LISTED = "(SELECT string_agg(one, '; ') FROM jsonb_array_elements_text({}) AS one)"
WORDS = (
    "(SELECT string_agg(d ->> 'words', '; ') FROM jsonb_array_elements(e.determinations) AS d "
    "WHERE d ->> 'rejected' = '' AND d ->> 'role' IN ({}))"
)
LOCAL = (
    "to_char(taken.at AT TIME ZONE taken.zone, 'YYYY-MM-DD\"T\"HH24:MI:SS') "
    "|| CASE WHEN apart.seconds < 0 THEN '-' ELSE '+' END "
    "|| lpad((abs(apart.seconds) / 3600)::text, 2, '0') "
    "|| lpad((abs(apart.seconds) / 60 % 60)::text, 2, '0')"
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
    "sampled_utc": MOMENT.format("taken.at"),
    "sampled_local": LOCAL,
    "zone": "taken.zone",
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
FOUR_FIGURES = (
    "CASE WHEN {0} = 0 THEN '0' ELSE "
    "trim_scale(round({0}::numeric, 3 - floor(log(abs({0})))::int))::text END"
)
TYPED = (
    "struck_by", "struck_why", "decided_by", "decision_reason", "water", "point", "said", "read",
    "blank_read", "working", "cause", "flags", "lot", "taken_by", "tested_by", "seen",
)  # fmt: skip
GUARDED = "CASE WHEN {0} ~ '^[-=+@\t\r]' THEN '''' || {0} ELSE {0} END"
SQL = """
WITH chosen AS MATERIALIZED ({results})
SELECT {columns}
FROM chosen JOIN results_result r ON r.id = chosen.id
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
CROSS JOIN LATERAL (
    SELECT (e.context ->> 'taken_at')::timestamptz AS at,
        coalesce(nullif(s.zone, ''), 'UTC') AS zone
) taken
CROSS JOIN LATERAL (
    SELECT extract(
        epoch FROM (taken.at AT TIME ZONE taken.zone) - (taken.at AT TIME ZONE 'UTC')
    )::int AS seconds
) apart
ORDER BY r.sampled_at DESC, r.id DESC, e.id DESC
OFFSET 0
"""


def pieces(results: ResultQuery) -> Iterator[bytes]:
    """The file in pieces of some hundred lines, with its header."""
    chosen, values = results.order_by().values("id").query.sql_with_params()
    columns = ", ".join(f'{expression} AS "{name}"' for name, expression in COLUMNS.items())
    inner = SQL.format(columns=columns.replace("%", "%%"), results=chosen)
    statement = f"SELECT {', '.join(_cell(name) for name in COLUMNS)} FROM ({inner}) AS one"  # noqa: S608
    yield (",".join(COLUMNS) + "\r\n").encode()
    with connection.cursor() as cursor:
        copying = f"COPY ({statement}) TO STDOUT (FORMAT csv)"
        with cursor.copy(copying, values) as copy:
            lines = (bytes(line).removesuffix(b"\n") + b"\r\n" for line in copy)
            while some := list(islice(lines, AT_ONCE)):
                yield b"".join(some)


def _cell(name: str) -> str:
    """A column as it is written: numbers with four figures, and what people typed guarded against
    being run as a formula by a spreadsheet."""
    column = f'one."{name}"'
    if name in NUMBERS:
        return FOUR_FIGURES.format(column)
    return GUARDED.format(column) if name in TYPED else column
