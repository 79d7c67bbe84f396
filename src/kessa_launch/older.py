"""Databases of releases before 0.5, whose tables this release cannot read."""

import time

from kessa_launch.database import Database
from kessa_launch.errors import LauncherError

IS_OLDER = (
    "SELECT to_regclass('public.accounts_programme') IS NOT NULL "
    "AND to_regclass('public.platform_programme') IS NULL"
)


def is_older(database: Database) -> bool:
    """Whether the tables are those of a release before 0.5."""
    return database.sql(IS_OLDER, database.name) == "t"


def set_aside(database: Database) -> None:
    """Keep an older database under another name and make an empty one in its place."""
    if not is_older(database):
        return
    aside = f"{database.name}_before_0_5_{int(time.time())}"
    database.sql(f'ALTER DATABASE "{database.name}" RENAME TO "{aside}"')
    database.sql(f'CREATE DATABASE "{database.name}"')
    print(
        "The records here were made by a release before 0.5, which this one cannot read. They are "
        f"kept as the database {aside}; an empty one takes their place.",
        flush=True,
    )


def refuse(database: Database, what: str) -> None:
    """Raise Trouble for an older database that somebody chose, and leave it as it is."""
    if is_older(database):
        raise LauncherError(
            f"{what} was made by a release before 0.5, which this one cannot read. Nothing was "
            "changed. Give Kessa an empty database."
        )
