"""Logs as JSON lines without personal data: routes and statuses, never addresses, names or text."""

import logging
import traceback
from datetime import UTC, datetime
from types import TracebackType
from typing import Any

from pythonjsonlogger.json import JsonFormatter

CARRIED = ("request", "route", "method", "status", "ms", "programme", "person", "member", "tries")
ExcInfo = tuple[type[BaseException], BaseException, TracebackType | None] | tuple[None, None, None]


class JsonLogFormatter(JsonFormatter):
    """One object a line: at, level, logger, event, and what a request carries.

    Messages of other libraries may quote what people typed, so only their fixed part is kept; an
    error says its type and where it happened, not its message.
    """

    def __init__(self) -> None:
        super().__init__()

    def add_fields(
        self, log_data: dict[str, Any], record: logging.LogRecord, message_dict: dict[str, Any]
    ) -> None:
        """The whole line."""
        log_data["at"] = datetime.fromtimestamp(record.created, UTC).isoformat(
            timespec="milliseconds"
        )
        log_data["level"] = record.levelname.lower()
        log_data["logger"] = record.name
        log_data["event"] = str(record.msg)
        for name in CARRIED:
            value = getattr(record, name, None)
            if isinstance(value, str | int | float):
                log_data[name] = value
        if record.exc_info and record.exc_info[0]:
            log_data["error"] = record.exc_info[0].__name__
            log_data["where"] = _where(record.exc_info)


def _where(exc_info: ExcInfo) -> list[str]:
    """File and line of each step, without the values."""
    steps = traceback.extract_tb(exc_info[2])
    last = steps[-12:]
    return [f"{_short(step.filename)}:{step.lineno} {step.name}" for step in last]


def _short(filename: str) -> str:
    """The file within the source or within its package; no path of the machine."""
    return filename.rpartition("site-packages/")[2].rpartition("/src/")[2]
