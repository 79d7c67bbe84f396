"""Reads that name their programme. In a request, a query over what programmes own is refused
unless it says whose rows it wants: a view that forgets its programme fails instead of leaking."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any, Self

from django.db import models
from django.db.models.expressions import Col
from django.db.models.lookups import Exact, In
from django.db.models.sql.where import AND, WhereNode


class UnscopedRead(Exception):
    """A query in a request that would read rows of every programme, or of another one."""


@dataclass
class RequestScope:
    """What the request under way may read. programme: its programme's number, once it is known."""

    programme: int | None = None


_scope: ContextVar[RequestScope | None] = ContextVar("kessa_request_scope", default=None)


@contextmanager
def request_scope() -> Iterator[RequestScope]:
    """Within this block unscoped reads are refused."""
    scope = RequestScope()
    token = _scope.set(scope)
    try:
        yield scope
    finally:
        _scope.reset(token)


def narrow_to(programme: int) -> None:
    """From now on the request under way reads rows of this programme alone."""
    if scope := _scope.get():
        scope.programme = programme


class ProgrammeQuerySet(models.QuerySet[Any]):
    """Rows of programmes. scope_columns: the columns of which one has to be given in a request."""

    scope_columns: tuple[str, ...] = ("programme_id",)

    _hints: dict[str, Any]
    """Django's own: the object that a related manager started from."""

    def of(self, programme: Any) -> Self:
        """The rows of a programme."""
        return self.filter(programme=programme)

    def refuse_unscoped(self) -> None:
        """Raise UnscopedRead when a request is under way and the query names no programme."""
        scope = _scope.get()
        if scope is None or self._hints.get("instance") is not None or self.query.is_empty():
            return
        found = list(_named(self.query.where, self.scope_columns))
        if not found:
            raise UnscopedRead(f"{self.model.__name__}: this query names no programme.")
        for column, value in found:
            wrong = column == "programme_id" and isinstance(value, int)
            if wrong and scope.programme not in (None, value):
                raise UnscopedRead(f"{self.model.__name__}: this query names another programme.")

    def _fetch_all(self) -> None:
        if self._result_cache is None:
            self.refuse_unscoped()
        super()._fetch_all()

    def iterator(self, *args: Any, **kwargs: Any) -> Iterator[Any]:
        self.refuse_unscoped()
        return super().iterator(*args, **kwargs)

    def count(self) -> int:
        self.refuse_unscoped()
        return super().count()

    def exists(self) -> bool:
        self.refuse_unscoped()
        return super().exists()

    def aggregate(self, *args: Any, **kwargs: Any) -> dict[str, Any]:
        self.refuse_unscoped()
        return super().aggregate(*args, **kwargs)

    def update(self, **kwargs: Any) -> int:
        self.refuse_unscoped()
        return super().update(**kwargs)

    def delete(self) -> tuple[int, dict[str, int]]:
        self.refuse_unscoped()
        return super().delete()


def _named(where: WhereNode, columns: tuple[str, ...]) -> Iterator[tuple[str, Any]]:
    """Each column of *columns* that the whole condition holds to a value, with that value."""
    if where.connector != AND or where.negated:
        return
    for child in where.children:
        if isinstance(child, WhereNode):
            yield from _named(child, columns)
        elif isinstance(child, Exact | In) and isinstance(child.lhs, Col):
            column = child.lhs.target.column
            yield from [(column, child.rhs)] if column in columns else []
