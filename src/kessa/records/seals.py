"""What an audit entry carries of the evidence, so that a changed event or evaluation shows."""

from collections.abc import Iterable
from datetime import UTC, datetime
from typing import Any

from kessa_core.records import sha


def sha_of_events(events: Iterable[Any]) -> str:
    """One hash over events (rows of bench.Event), with who sent each."""
    return sha(sorted(([e.id, e.person_id, _act(e)] for e in events), key=lambda one: str(one[0])))


def sha_of_evaluation(row: Any, seal: int = 1) -> str:
    """One hash over an evaluation (a row of log.Evaluation), over the columns of that *seal*."""
    return sha({name: _plain(getattr(row, name)) for name in EVALUATION_SEALS[seal]})


EVALUATION_FIELDS = (
    "id", "programme_id", "result_id", "made_at", "core_version", "method_hash", "lot_revision",
    "limit_set", "limit_edition", "finish", "decision", "cause", "qualifier", "number", "decimals",
    "rounding", "form", "basis", "unit", "low", "high", "sign", "reported_sign", "limit_id",
    "against", "sentences", "working", "flags", "determinations", "context", "shown",
    "made_by_id", "why",
)  # fmt: skip
"""Columns of the first seal. Entries were made with exactly these."""
OF_SCALES = ("bracket_low", "bracket_high", "said", "how")
EVALUATION_SEALS = {
    1: EVALUATION_FIELDS,
    2: (*EVALUATION_FIELDS, *OF_SCALES),
    3: (*EVALUATION_FIELDS, *OF_SCALES, "said_range", "lots"),
}
"""Sealed columns by the number an entry carries: columns added later come with a new number."""
SEAL = 3
ACT_FIELDS = (
    "run_id", "act", "data", "device", "seq", "lamport", "at", "mono_ms", "page", "offset_ms",
    "shown", "v",
)  # fmt: skip


def _act(event: Any) -> dict[str, Any]:
    return {name: _plain(getattr(event, name)) for name in ACT_FIELDS}


def _plain(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.astimezone(UTC).isoformat(timespec="microseconds")
    return value if isinstance(value, dict | list | int | float | bool | None) else str(value)
