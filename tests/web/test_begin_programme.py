"""The first programme of a served installation."""

import io
from unittest import mock

from django.core.management import CommandError, call_command
from django.test import TestCase

from kessa.platform.models import Programme

COMMAND = "kessa.flows.management.commands.begin_programme"
GOOD = "slate-and-kettle-9"


class Begin(TestCase):
    def begin(self, password: str = GOOD, **options: str) -> str:
        out = io.StringIO()
        settings = {"slug": "mill", "manager": "ada", "timezone": "Europe/London"} | options
        with mock.patch(f"{COMMAND}.getpass", return_value=password):
            call_command("begin_programme", "Mill Room", stdout=out, **settings)
        return out.getvalue()

    def test_the_manager_signs_in_and_finds_the_methods(self) -> None:
        """Programme, manager and shipped methods stand."""
        self.assertIn("/p/mill/", self.begin())
        self.client.post("/sign-in/", {"username": "ada", "password": GOOD})
        self.assertContains(
            self.client.get("/p/mill/library/"), "Chloride by drop count, 15 mL portion"
        )

    def test_what_is_refused_leaves_nothing(self) -> None:
        """A weak password, a slug with a blank, a zone that does not exist, a slug that exists."""
        for change in ({"password": "123"}, {"slug": "a mill"}, {"timezone": "Mill/Time"}):
            with self.subTest(change=change), self.assertRaises(CommandError):
                self.begin(**change)
        self.assertFalse(Programme.objects.exists())
        self.begin()
        with self.assertRaisesMessage(CommandError, "exists already"):
            self.begin(manager="grace")
