"""Databases beside the tests' own, on the same server, as a command line sees them."""

import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.db import connection

from kessa_launch import environment
from kessa_launch.database import Database


def this_one(media: Path | str) -> Database:
    """The tests' database, with the settings of a demo."""
    found = environment.variables(
        {
            "KESSA_DB_NAME": connection.settings_dict["NAME"],
            "KESSA_MEDIA_ROOT": str(media),
            "KESSA_DEMO": "1",
            "DJANGO_SETTINGS_MODULE": "kessa.settings",
        }
    )
    return Database(Path(sys.executable), found)


@contextmanager
def empty(name: str, media: Path | str) -> Iterator[Database]:
    """A new database that is dropped afterwards, with whatever was kept aside of it.

    Without FORCE: that one may not end a vacuum the server itself began there, the plain
    command waits for it.
    """
    beside = this_one(media).named(name)
    beside.sql(f'CREATE DATABASE "{name}"')
    try:
        yield beside
    finally:
        kept = f"SELECT datname FROM pg_database WHERE datname LIKE '{name}%'"
        for one in beside.sql(kept).split():
            beside.sql(f'DROP DATABASE "{one}"')


@contextmanager
def connected_to(database: Database) -> Iterator[None]:
    """The models of this process read and write *database* within this block."""
    settings = connection.settings_dict
    before = settings["NAME"]
    connection.close()
    settings["NAME"] = database.name
    try:
        yield
    finally:
        connection.close()
        settings["NAME"] = before


@contextmanager
def as_environment(database: Database) -> Iterator[None]:
    """The commands of ./kessa work on *database* within this block."""
    kept = dict(os.environ)
    os.environ.update(database.environ)
    try:
        yield
    finally:
        os.environ.clear()
        os.environ.update(kept)
