"""The wall in the schema: what belongs to one programme can only point at the same programme's."""

from django.db.migrations.operations import RunSQL


def wall(table: str, column: str, target: str) -> RunSQL:
    """A composite foreign key (programme, *column*) -> *target* (programme, id).

    *target* must have been given its key by ward().
    """
    name = f"{table}_{column}_same_programme"
    return RunSQL(
        f"ALTER TABLE {table} ADD CONSTRAINT {name} FOREIGN KEY (programme_id, {column}) "
        f"REFERENCES {target} (programme_id, id) DEFERRABLE INITIALLY DEFERRED",
        f"ALTER TABLE {table} DROP CONSTRAINT {name}",
    )


def ward(table: str) -> RunSQL:
    """The composite key that wall() refers to."""
    name = f"{table}_programme_id_key"
    return RunSQL(
        f"ALTER TABLE {table} ADD CONSTRAINT {name} UNIQUE (programme_id, id)",
        f"ALTER TABLE {table} DROP CONSTRAINT {name}",
    )
