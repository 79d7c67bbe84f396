"""The log as CSV: RFC 4180, UTF-8, units and bases in columns of their own.

One row a result; below it, with status "struck", a row for each evaluation that no longer stands.
The database makes the rows, some thousand results at a time, so that a long log streams with flat
memory and no statement has to sort it whole.
"""

from collections.abc import Iterator
from itertools import islice

from django.db import connections
from django.http import StreamingHttpResponse

from kessa.platform.replica import reading_from
from kessa.results.queries import ResultQuery
from kessa_core.runs.state import SAMPLE_ROLES

AT_ONCE = 5000
MOMENT = "to_char({} AT TIME ZONE 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')"
LISTED = (
    "CASE WHEN {0} <> '[]' THEN "
    "(SELECT string_agg(one, '; ') FROM jsonb_array_elements_text({0}) AS one) END"
)
LOTS = (
    "CASE WHEN e.lots <> '[]' THEN "
    "(SELECT string_agg(one ->> 'number', '; ') FROM jsonb_array_elements(e.lots) AS one) END"
)
LOCAL = (
    "to_char(taken.at AT TIME ZONE taken.zone, 'YYYY-MM-DD\"T\"HH24:MI:SS') "
    "|| CASE WHEN apart.seconds < 0 THEN '-' ELSE '+' END "
    "|| lpad((abs(apart.seconds) / 3600)::text, 2, '0') "
    "|| lpad((abs(apart.seconds) / 60 % 60)::text, 2, '0')"
)
ROLES = ", ".join(f"'{role}'" for role in SAMPLE_ROLES)
NAME = "coalesce(nullif({0}.shown_name, ''), {0}.username)"
STANDING = "e.struck_at IS NULL AND e.status IN ('reviewed', 'rejected')"
COLUMNS = {
    "result": "e.result_id",
    "run": "e.run_id",
    "status": "CASE WHEN e.struck_at IS NULL THEN e.status ELSE 'struck' END",
    "struck_utc": MOMENT.format("e.struck_at"),
    "struck_by": NAME.format("striker"),
    "struck_why": "e.struck_why",
    "decided_by": f"CASE WHEN {STANDING} THEN {NAME.format('decider')} END",
    "decided_utc": f"CASE WHEN {STANDING} THEN {MOMENT.format('decision.at')} END",
    "decision_reason": f"CASE WHEN {STANDING} THEN decision.reason END",
    "outcome": "e.finish",
    "water": "w.name",
    "point": "p.name",
    "sampled_utc": MOMENT.format("taken.at"),
    "sampled_local": LOCAL,
    "zone": "taken.zone",
    "parameter": "e.parameter",
    "stage": "e.stage",
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
    "read": "words.read",
    "blank_read": "words.blank_read",
    "working": "e.working",
    "cause": "e.cause",
    "flags": LISTED.format("e.flags"),
    "method": "m.method_id",
    "method_version": "m.version || CASE WHEN m.own > 0 THEN '.' || m.own ELSE '' END",
    "method_hash": "e.method_hash",
    "lot": LOTS,
    "taken_by": NAME.format("taker"),
    "tested_by": NAME.format("tester"),
    "weather_now": "k.weather_now",
    "weather_last_24_h": "k.weather_before",
    "water_c": "k.water_c",
    "air_c": "k.air_c",
    "depth_cm": "k.depth_cm",
    "seen": LISTED.format("k.seen"),
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
FIGURES = (*NUMBERS, "result", "value", "water_c", "air_c", "depth_cm")
"""Columns of numbers; whatever else begins like a formula is disarmed."""
RUN_AS_FORMULA = ", ".join(str(ord(sign)) for sign in "-=+@\t\r")
GUARDED = f"CASE WHEN ascii({{0}}) IN ({RUN_AS_FORMULA}) THEN '''' || {{0}} ELSE {{0}} END"
SQL = """
WITH evaluated AS MATERIALIZED (
    SELECT r.sampled_at, r.run_id, r.stage, r.status, r.point_id, e.*,
        lead(e.made_at) OVER newer AS struck_at, lead(e.made_by_id) OVER newer AS struck_by,
        lead(e.why) OVER newer AS struck_why
    FROM results_result r JOIN results_evaluation e ON e.result_id = r.id
    WHERE r.id = ANY(%s)
    WINDOW newer AS (PARTITION BY e.result_id ORDER BY e.id)
), judged AS MATERIALIZED (
    SELECT DISTINCT ON (v.evaluation_id) v.*
    FROM verdicts_verdict v
    WHERE v.leads AND v.evaluation_id IN (SELECT id FROM evaluated)
    ORDER BY v.evaluation_id, v.round DESC
), decided AS MATERIALIZED (
    SELECT DISTINCT ON (one.result_id) one.*
    FROM results_review one
    WHERE one.decision IN ('accept', 'reject')
    AND one.result_id IN (SELECT result_id FROM evaluated)
    ORDER BY one.result_id, one.id DESC
)
SELECT {columns}
FROM evaluated e
JOIN runs_run run ON run.id = e.run_id
JOIN visits_sample s ON s.id = run.sample_id
JOIN places_point p ON p.id = e.point_id
JOIN places_water w ON w.id = p.water_id
JOIN library_methodversion m ON m.id = run.version_id
JOIN platform_person tester ON tester.id = run.opened_by_id
LEFT JOIN platform_person taker ON taker.id = s.taken_by_id
LEFT JOIN platform_person striker ON striker.id = e.struck_by
LEFT JOIN judged v ON v.evaluation_id = e.id
LEFT JOIN verdicts_judgedlimit l ON l.id = v.limit_id
LEFT JOIN decided decision ON decision.result_id = e.result_id
LEFT JOIN platform_person decider ON decider.id = decision.by_id
CROSS JOIN LATERAL jsonb_to_record(e.context) AS k(
    taken_at timestamptz, weather_now text, weather_before text, water_c text, air_c text,
    depth_cm text, seen jsonb
)
CROSS JOIN LATERAL (
    SELECT string_agg(d ->> 'words', '; ') FILTER (WHERE d ->> 'role' IN ({roles})) AS read,
        string_agg(d ->> 'words', '; ') FILTER (WHERE d ->> 'role' = 'blank') AS blank_read
    FROM jsonb_array_elements(e.determinations) AS d
    WHERE d ->> 'rejected' = ''
) words
CROSS JOIN LATERAL (
    SELECT k.taken_at AS at, coalesce(nullif(s.zone, ''), 'UTC') AS zone
) taken
CROSS JOIN LATERAL (
    SELECT extract(
        epoch FROM (taken.at AT TIME ZONE taken.zone) - (taken.at AT TIME ZONE 'UTC')
    )::int AS seconds
) apart
ORDER BY e.sampled_at DESC, e.result_id DESC, e.id DESC
"""


def pieces(results: ResultQuery) -> Iterator[bytes]:
    """The file in pieces of some thousand lines, with its header, the newest result first."""
    columns = ", ".join(f'{expression} AS "{name}"' for name, expression in COLUMNS.items())
    inner = SQL.format(columns=columns.replace("%", "%%"), roles=ROLES)
    statement = f"SELECT {', '.join(_cell(name) for name in COLUMNS)} FROM ({inner}) AS one"  # noqa: S608
    copying = f"COPY ({statement}) TO STDOUT (FORMAT csv)"
    place = reading_from()
    numbers = results.using(place).newest_first().values_list("id", flat=True)
    listed = numbers.iterator(chunk_size=AT_ONCE)
    yield (",".join(COLUMNS) + "\r\n").encode()
    while some := list(islice(listed, AT_ONCE)):
        with connections[place].cursor() as cursor, cursor.copy(copying, [some]) as copy:
            yield b"".join(bytes(line).removesuffix(b"\n") + b"\r\n" for line in copy)


def download(results: ResultQuery, name: str) -> StreamingHttpResponse:
    """The file as an answer, to be saved under this *name*."""
    kind = "text/csv; charset=utf-8; header=present"
    response = StreamingHttpResponse(pieces(results), content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


def _cell(name: str) -> str:
    """A column as it is written: numbers with four figures, and every text guarded against being
    run as a formula by a spreadsheet."""
    column = f'one."{name}"'
    if name in NUMBERS:
        return FOUR_FIGURES.format(column)
    return column if name in FIGURES else GUARDED.format(f"{column}::text")
