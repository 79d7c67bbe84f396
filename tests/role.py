"""Requests in tests are answered as the application's database role, as in production."""

from collections.abc import Callable

from django.conf import settings
from django.db import connection
from django.http import HttpRequest, HttpResponse
from psycopg import errors


class AsApplication:
    """The first middleware past static files: the owner's connection acts as the application until
    the answer.

    Past Django's cursor, so that counts of queries stay those of the request.
    """

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self.answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        act_as(settings.APPLICATION_ROLE)
        try:
            return self.answer(request)
        finally:
            act_as("NONE")


def act_as(role: str) -> None:
    """SET ROLE; a failed transaction gives the role back by itself when it is rolled back."""
    connection.ensure_connection()
    try:
        with connection.connection.cursor() as cursor:
            cursor.execute(f"SET ROLE {role}")
    except errors.InFailedSqlTransaction:
        pass
