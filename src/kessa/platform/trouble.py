"""A database that cannot do its work: said in words, remembered for a while, never a bare error."""

import secrets
import sys
import time
from pathlib import Path

from django.conf import settings
from django.contrib.sessions.models import Session
from django.db import DatabaseError, OperationalError, connection, transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.utils import timezone
from django.views import defaults

FULL = "The disk of the server is full."
AWAY = "The database of the server does not answer."
BUSY = "The database of the server takes no more connections."
WORDS = {"53100": FULL, "53200": "The server is out of memory.", "53300": BUSY}
REMEMBERED = 300
"""Seconds for which a trouble is told to whoever asks whether all is well."""
PROBE_BYTES = 64 * 1024


def server_error(request: HttpRequest) -> HttpResponse:
    """The answer to a request that ended in an error: 503 with what is wrong where the database
    could not do its work, else Django's own page."""
    error = sys.exc_info()[1]
    words = words_of(error) if error else ""
    if not words:
        return defaults.server_error(request)
    remember(words)
    if request.content_type == "application/json":
        return JsonResponse({"error": words}, status=503)
    return render(request, "503.html", {"words": words}, status=503)


def words_of(error: BaseException) -> str:
    """What is wrong with the server's database, in words; empty for an error of another kind."""
    if not isinstance(error, DatabaseError):
        return ""
    state = getattr(error.__cause__, "sqlstate", None) or ""
    if state in WORDS:
        return WORDS[state]
    return AWAY if state[:2] in ("08", "57") or _is_away(error) else ""


def _is_away(error: DatabaseError) -> bool:
    """Whether the connection itself failed: then PostgreSQL has said no state."""
    return isinstance(error, OperationalError) and not getattr(error.__cause__, "sqlstate", None)


def remember(words: str) -> None:
    """Tell it to whoever asks within the next minutes, whichever process is asked."""
    try:
        _note().write_text(words, encoding="utf-8")
    except OSError:
        return


def remembered() -> str:
    """What was wrong within the last minutes; empty where nothing was."""
    try:
        told = _note()
        if time.time() - told.stat().st_mtime < REMEMBERED:
            return told.read_text(encoding="utf-8") or FULL
    except OSError:
        return ""
    return ""


def cannot_write() -> str:
    """Try to write as much as a request might, and take it back; what is wrong, in words."""
    row = Session(
        session_key=secrets.token_hex(16),
        session_data=secrets.token_hex(PROBE_BYTES // 2),
        expire_date=timezone.now(),
    )
    try:
        with transaction.atomic():
            row.save(force_insert=True)
            transaction.set_rollback(True)
    except DatabaseError as error:
        return words_of(error) or "The database refuses to write."
    return ""


def _note() -> Path:
    return Path(settings.MEDIA_ROOT) / f".trouble-{connection.settings_dict['NAME']}"
