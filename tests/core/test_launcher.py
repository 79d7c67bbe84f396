"""The launcher's own rules: locks, ports, secrets, stale pid files, plain messages."""

import contextlib
import io
import os
import socket
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path
from unittest import mock

from tools.licences import locked

from kessa_launch import debian, ports
from kessa_launch.__main__ import COMMANDS, OWN_HELP, main
from kessa_launch.commands.test import chosen
from kessa_launch.commands.vendor import PACKAGES
from kessa_launch.errors import LauncherError
from kessa_launch.locks import FileLock, hold, is_held
from kessa_launch.postgres import Cluster
from kessa_launch.state_paths import CLONE, StatePaths


class Launcher(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.where = StatePaths(Path(folder.name))

    def test_a_lock_is_held_by_one(self) -> None:
        """The second is told, and after the first has gone it may."""
        path = self.where.home / "lock"
        with hold(path, wait=False):
            self.assertTrue(is_held(path))
            with self.assertRaises(FileLock), hold(path, wait=False):
                pass
        self.assertFalse(is_held(path))

    def test_a_taken_port_is_passed_over(self) -> None:
        """The next free one is taken."""
        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            port = taken.getsockname()[1]
            self.assertNotEqual(ports.free(port), port)

    def test_a_port_that_is_served_on_is_held_from_the_start(self) -> None:
        """Nobody else can take it between choosing and serving."""
        with ports.listening(8000) as held, socket.socket() as other:
            place = held.getsockname()
            self.assertTrue(held.get_inheritable())
            with self.assertRaises(OSError):
                other.bind(place)
            with socket.create_connection(place, timeout=2):
                pass
            self.assertNotEqual(ports.free(place[1]), place[1])

    def test_every_command_says_what_it_does(self) -> None:
        """`./kessa COMMAND --help` prints, and starts nothing."""
        for name in sorted(set(COMMANDS) - set(OWN_HELP)):
            out = io.StringIO()
            with self.subTest(name), redirect_stdout(out):
                self.assertEqual(main([name, "--help"]), 0)
                self.assertIn(f"./kessa {name}", out.getvalue())

    def test_secrets_are_made_once_and_are_ones_own(self) -> None:
        """The same at every start, readable by the owner alone."""
        first = self.where.secrets()
        self.assertEqual(self.where.secrets(), first)
        self.assertEqual(self.where.secrets_file.stat().st_mode & 0o077, 0)
        self.assertEqual(len(set(first.values())), 4)

    def test_a_process_that_is_no_server_of_ours_is_not_taken_for_one(self) -> None:
        """A pid file may name a number that somebody else has now, or that is gone."""
        cluster = Cluster(self.where, "demo")
        self.assertFalse(cluster._serves(str(os.getpid())))
        self.assertFalse(cluster._serves("999999999"))

    def test_who_may_not_install_is_told_the_one_line(self) -> None:
        """Package names and the command stand in the message."""
        with (
            mock.patch("os.geteuid", return_value=1000),
            mock.patch(
                "shutil.which", side_effect=lambda name: "/x" if name == "apt-get" else None
            ),
            self.assertRaisesRegex(LauncherError, "sudo apt-get install -y postgresql"),
        ):
            debian.install("postgresql", why="Kessa keeps its records in PostgreSQL")

    def test_an_unknown_command_is_said(self) -> None:
        """With the way to the list; the list itself is help."""
        with contextlib.redirect_stderr(io.StringIO()) as err:
            self.assertEqual(main(["fly"]), 2)
        self.assertIn("no command 'fly'", err.getvalue())
        with contextlib.redirect_stdout(io.StringIO()) as out:
            self.assertEqual(main(["--help"]), 0)
        self.assertIn("demo", out.getvalue())


class ChosenTests(unittest.TestCase):
    def test_which_parts_run(self) -> None:
        """All, one part, or those that the labels lie in, each once and in its order."""
        for arguments, parts in (
            ([], ["lint", "core", "web", "reading", "browser"]),
            (["web", "--failfast"], ["web"]),
            (["tests.web.test_log"], ["web"]),
            (["tests.browser.test_desk", "tests.web.test_log", "tests.web.test_jobs"],
             ["web", "browser"]),
        ):  # fmt: skip
            with self.subTest(arguments):
                self.assertEqual(chosen(arguments)[0], parts)

    def test_what_is_no_test_is_refused(self) -> None:
        """The second label too."""
        for arguments in (["tests.nowhere.test_log"], ["tests.web.test_log", "kessa"], ["wep"]):
            with self.subTest(arguments), self.assertRaisesRegex(LauncherError, "no part"):
                chosen(arguments)


class Licences(unittest.TestCase):
    def test_the_list_is_that_of_the_lock_file(self) -> None:
        """Every locked package with its version; ./kessa licences writes it anew."""
        listed = (CLONE / "docs" / "LICENCES.md").read_text()
        for name, version in locked().items():
            self.assertIn(f"| {name} | {version} |", listed)
        for package in PACKAGES:
            name, _, version = package.rpartition("@")
            self.assertIn(f"| {name} | {version} |", listed)
