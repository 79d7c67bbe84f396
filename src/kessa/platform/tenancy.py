"""Constraints that keep programmes apart, and facts as they were inserted."""

from typing import Any

import pgtrigger
from django.db import models
from django.db.models.constraints import BaseConstraint


class ProgrammeForeignKey(BaseConstraint):
    """A composite foreign key (programme, *field*) to the (programme, id) of the field's model, so
    that a row can only refer to rows of its own programme."""

    def __init__(self, field: str, *, name: str) -> None:
        super().__init__(name=name)
        self.field = field

    def deconstruct(self) -> Any:
        path, args, kwargs = super().deconstruct()
        return path, args, kwargs | {"field": self.field}

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, ProgrammeForeignKey):
            return NotImplemented
        return (self.name, self.field) == (other.name, other.field)

    def __hash__(self) -> int:
        return hash((self.name, self.field))

    def constraint_sql(self, model: Any, schema_editor: Any) -> str:
        """Nothing at once: the key it refers to may be made later in the same migration."""
        return self.create_sql(model, schema_editor)

    def create_sql(self, model: Any, schema_editor: Any) -> str:
        """Nothing at once; the constraint is added when the migration has made every table."""
        column = model._meta.get_field(self.field)
        target = column.related_model
        quote = schema_editor.quote_name
        schema_editor.deferred_sql.append(
            f"ALTER TABLE {quote(model._meta.db_table)} ADD CONSTRAINT {quote(self.name)} "
            f"FOREIGN KEY (programme_id, {quote(column.column)}) "
            f"REFERENCES {quote(target._meta.db_table)} (programme_id, id) "
            "DEFERRABLE INITIALLY DEFERRED"
        )
        return ""

    def remove_sql(self, model: Any, schema_editor: Any) -> str:
        quote = schema_editor.quote_name
        return f"ALTER TABLE {quote(model._meta.db_table)} DROP CONSTRAINT {quote(self.name)}"

    def validate(self, *args: Any, **kwargs: Any) -> None:
        """Left to the database."""


def programme_key() -> models.UniqueConstraint:
    """The key (programme, id) that a ProgrammeForeignKey refers to."""
    return models.UniqueConstraint(
        fields=["programme", "id"], name="%(app_label)s_%(class)s_programme_key"
    )


def programme_constraints(*fields: str) -> list[BaseConstraint]:
    """What every table of a programme has: its key, and a composite foreign key for each of these
    *fields*, which refer to other tables of the programme."""
    return [programme_key(), *programme_foreign_keys(*fields)]


def programme_foreign_keys(*fields: str) -> list[BaseConstraint]:
    """The composite foreign keys alone, for a table to which none refers. Where rows come by the
    hundred thousand, the fields themselves need no constraint beside these."""
    return [
        ProgrammeForeignKey(field, name=f"%(app_label)s_%(class)s_{field}_id_same_programme")
        for field in fields
    ]


def insert_only() -> pgtrigger.Protect:
    """Rows that are inserted and never changed: the database refuses to update or delete them."""
    return pgtrigger.Protect(name="insert_only", operation=pgtrigger.Update | pgtrigger.Delete)
