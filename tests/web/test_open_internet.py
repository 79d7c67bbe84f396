"""What ASVS asks of a site beside its accounts: sessions, hashes, hosts, files, and what the code
never does."""

import ast
import os
import re
import subprocess
import sys
from pathlib import Path

from django.apps import apps
from django.conf import global_settings
from django.contrib.auth.hashers import identify_hasher, make_password
from django.contrib.sessions.models import Session
from django.db.models import FileField
from django.test import Client, TestCase, override_settings

from kessa.people.strength import strength_of
from kessa.platform.models import Person
from tests.builders.people import PASSWORD, Room
from tests.builders.rooms import RoomTest

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "kessa"
NEVER_IMPORTED = {"subprocess", "pickle", "marshal", "shelve", "random", "ctypes", "xml"}
SQL_OF_OUR_OWN = {
    "flows/management/commands/figures.py",
    "platform/grants.py",
    "platform/hashes.py",
    "platform/management/commands/figures.py",
    "results/history.py",
    "verdicts/preview.py",
    "verdicts/rejudging.py",
}
"""Where a statement is put together from names of tables and columns; values are bound."""


class Sessions(RoomTest):
    def setUp(self) -> None:
        self.said = {"username": self.room.monitor.username, "password": PASSWORD}

    def test_a_new_number_at_each_sign_in(self) -> None:
        """Of 32 letters and figures; the number of before opens nothing."""
        numbers = []
        for _ in range(3):
            self.client.post("/sign-in/", self.said)
            numbers.append(self.client.cookies["sessionid"].value)
            self.client.post("/sign-out/")
        self.assertEqual(len(set(numbers)), 3)
        self.assertTrue(all(re.fullmatch(r"[a-z0-9]{32}", one) for one in numbers))
        self.assertFalse(Session.objects.filter(pk__in=numbers).exists())

    def test_a_number_that_somebody_else_chose(self) -> None:
        """Planted in a browser before its owner signs in, it is not taken over."""
        planted = "x" * 32
        self.client.cookies["sessionid"] = planted
        self.client.post("/sign-in/", self.said)
        self.assertNotEqual(self.client.cookies["sessionid"].value, planted)
        thief = Client()
        thief.cookies["sessionid"] = planted
        self.assertEqual(thief.get("/account/").status_code, 302)

    def test_in_cookies_alone(self) -> None:
        self.client.post("/sign-in/", self.said)
        number = self.client.cookies["sessionid"].value
        answer = Client().get("/account/", {"sessionid": number}, headers={"Session": number})
        self.assertEqual(answer.status_code, 302)


class Passwords(TestCase):
    def test_how_they_are_stored(self) -> None:
        """PBKDF2 with SHA-256, a salt of its own each time, at least 600 000 rounds."""
        with override_settings(PASSWORD_HASHERS=global_settings.PASSWORD_HASHERS):
            first, second = make_password(PASSWORD), make_password(PASSWORD)
            self.assertNotEqual(first, second)
            told = identify_hasher(first).decode(first)
        self.assertEqual(told["algorithm"], "pbkdf2_sha256")
        self.assertGreaterEqual(told["iterations"], 600_000)

    def test_the_field_leaves_people_their_means(self) -> None:
        """It may be shown, pasted into and filled by a password manager."""
        page = Client().get("/sign-in/").content.decode()
        field = re.search(r"<input[^>]*type=\"password\"[^>]*>", page)[0]
        self.assertIn('autocomplete="current-password"', field)
        self.assertNotIn("onpaste", field)
        self.assertIn("data-show-password", page)

    def test_strength(self) -> None:
        """Why it would be refused first; then from easy to hard."""
        person = Person(username="quillwort", shown_name="Ada Quill")
        for password, score, words in (
            ("short", 0, "too short"),
            ("password1234", 0, "too common"),
            ("quillwort2026", 0, "too similar"),
            ("aaaaaaaaaaaaaa", 0, "Very easy to guess"),
            ("sunshine2026", 1, "Easy to guess"),
            ("december 2026", 2, "Could be guessed"),
            ("slate-again-kettle", 4, "Very hard to guess"),
            ("x" * 5_000, 0, "Very easy to guess"),
        ):
            with self.subTest(password[:20]):
                found = strength_of(password, person)
                self.assertIn(words, found.words)
                self.assertEqual(found.score, score)

    def test_strength_is_said_while_it_is_typed(self) -> None:
        """On every page where a password is chosen; an empty field says nothing."""
        room, client = Room(), Client()
        for name in ("password", "new"):
            said = client.post("/password-strength/", {name: "slate-again-kettle"})
            self.assertContains(said, "Very hard to guess")
        self.assertEqual(client.post("/password-strength/").content.strip(), b"")
        client.force_login(room.monitor)
        own = client.post("/password-strength/", {"new": room.monitor.username + "1"})
        self.assertContains(own, "too similar")
        for path in ("/account/", "/sign-in/forgotten/"):
            self.assertContains(client.get(path), 'hx-post="/password-strength/"')


class Doors(TestCase):
    def test_no_account_is_there_at_first(self) -> None:
        self.assertFalse(Person.objects.exists())

    def test_hosts_and_methods(self) -> None:
        """Another name of the server, another method: refused in words, with headers."""
        answer = Client().get("/sign-in/", headers={"Host": "elsewhere.example"})
        self.assertEqual(answer.status_code, 400)
        for method in ("put", "delete", "patch", "trace"):
            with self.subTest(method):
                answer = getattr(Client(), method)("/sign-out/")
                self.assertEqual(answer.status_code, 405)

    def test_no_listing_and_no_file_of_the_source(self) -> None:
        for path in ("/static/", "/.git/config", "/static/../settings.py", "/settings.py"):
            with self.subTest(path):
                self.assertEqual(Client().get(path).status_code, 404)

    def test_no_model_holds_a_file(self) -> None:
        files = [
            field
            for model in apps.get_models()
            for field in model._meta.get_fields()
            if isinstance(field, FileField)
        ]
        self.assertEqual(files, [])

    def test_it_does_not_start_without_a_key(self) -> None:
        environ = os.environ | {"KESSA_SECRET_KEY": "", "DJANGO_SETTINGS_MODULE": "kessa.settings"}
        line = [sys.executable, "-c", "import kessa.settings"]
        started = subprocess.run(line, env=environ, capture_output=True, text=True, check=False)
        self.assertIn("KESSA_SECRET_KEY is not set", started.stderr)

    def test_settings_of_real_work_raise_no_warning(self) -> None:
        environ = os.environ | {
            "KESSA_SECRET_KEY": "0aB-xY7" * 10, "KESSA_HOSTS": "kessa.example", "KESSA_DEBUG": "",
            "KESSA_DEMO": "", "DJANGO_SETTINGS_MODULE": "kessa.settings",
        }  # fmt: skip
        line = [sys.executable, "-m", "kessa", "check", "--deploy", "--fail-level", "WARNING"]
        checked = subprocess.run(line, env=environ, capture_output=True, text=True, check=False)
        self.assertEqual(checked.returncode, 0, checked.stderr)


class Source(TestCase):
    def test_what_the_code_never_does(self) -> None:
        """Start a program, unpack objects, draw from a generator that can be foreseen, evaluate."""
        for path in [*SOURCE.rglob("*.py"), *(ROOT / "src" / "kessa_core").rglob("*.py")]:
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                names: set[str] = set()
                if isinstance(node, ast.Import):
                    names = {one.name.partition(".")[0] for one in node.names}
                elif isinstance(node, ast.ImportFrom):
                    names = {(node.module or "").partition(".")[0]}
                elif isinstance(node, ast.Call) and isinstance(node.func, ast.Name):
                    self.assertNotIn(node.func.id, ("eval", "exec", "__import__"), path)
                if "kessa_core/simulation" not in str(path):
                    self.assertEqual(names & NEVER_IMPORTED, set(), path)

    def test_statements_are_fixed_texts(self) -> None:
        """Where a statement is put together is known, and it is put together from our own names."""
        found = set()
        for path in SOURCE.rglob("*.py"):
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                if (
                    isinstance(node, ast.Call)
                    and isinstance(node.func, ast.Attribute)
                    and node.func.attr in ("execute", "raw", "extra")
                    and node.args
                    and not isinstance(node.args[0], ast.Constant)
                ):
                    found.add(str(path.relative_to(SOURCE)))
        self.assertLessEqual(
            found - SQL_OF_OUR_OWN, {"flows/correcting.py", "flows/photographs.py"}
        )

    def test_forms_name_their_fields(self) -> None:
        """None is made of a model."""
        for path in SOURCE.rglob("*.py"):
            self.assertNotIn("ModelForm", path.read_text("utf-8"), path)

    def test_nothing_is_fetched_from_elsewhere(self) -> None:
        """No address of another host in templates, styles or scripts of ours."""
        kinds = (".html", ".css", ".js")
        for path in SOURCE.rglob("*"):
            if path.suffix in kinds and "vendor" not in path.parts:
                text = path.read_text("utf-8")
                led = re.findall(
                    r"(?:src|href|action|url\(|import|fetch\()[=\s\"'(]*https?://", text
                )
                self.assertEqual(led, [], path)

    def test_dependencies_are_pinned_by_hash(self) -> None:
        text = (ROOT / "requirements.lock").read_text("utf-8").replace("\\\n", " ")
        lines = [one for one in text.splitlines() if one and not one.startswith(("#", " "))]
        self.assertGreater(len(lines), 30)
        for line in lines:
            self.assertRegex(line, r"^[\w.-]+==[\w.]+.*--hash=sha256:[0-9a-f]{64}")
