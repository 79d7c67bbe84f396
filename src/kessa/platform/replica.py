"""Where exports and charts are read: on a streaming replica, where one is set up and has caught up
with what was written before it was asked; else on the primary."""

import logging
import time

from django.db import DEFAULT_DB_ALIAS, OperationalError, connection, connections

REPLICA = "replica"
PATIENCE_S = 1.0
"""How long a reader waits for the replica to have what stands on the primary now."""
PAUSE_S = 0.02

logger = logging.getLogger(__name__)


def reading_from() -> str:
    """The name of the connection to read from. What was written before this call can be read there:
    who has just decided something sees it in an export."""
    if REPLICA not in connections.settings:
        return DEFAULT_DB_ALIAS
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_current_wal_lsn()::text")
        (written,) = cursor.fetchone()
    try:
        return REPLICA if _has_caught_up(written) else DEFAULT_DB_ALIAS
    except OperationalError:
        logger.warning("replica.away")
        connections[REPLICA].close()
        return DEFAULT_DB_ALIAS


def _has_caught_up(written: str) -> bool:
    until = time.monotonic() + PATIENCE_S
    while True:
        with connections[REPLICA].cursor() as cursor:
            cursor.execute("SELECT pg_last_wal_replay_lsn() >= %s::pg_lsn", [written])
            (caught_up,) = cursor.fetchone()
        if caught_up:
            return True
        if caught_up is None or time.monotonic() > until:
            logger.warning("replica.behind")
            return False
        time.sleep(PAUSE_S)
