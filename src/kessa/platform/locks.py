"""Locks that no row stands for."""

from django.db import connection


def lock_until_commit(name: str) -> None:
    """One transaction at a time continues from here with this name; it holds until it ends."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_xact_lock(hashtextextended(%s, 0))", [name])
