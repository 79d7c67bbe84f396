"""./kessa test: lint, types, contracts and every suite of tests; one count at the end."""

import json
import os
import subprocess
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from kessa_launch import chromium, environment
from kessa_launch.children import StopRequested, stop_politely
from kessa_launch.commands import lint
from kessa_launch.database import as_owner
from kessa_launch.errors import LauncherError
from kessa_launch.locks import FileLock, hold
from kessa_launch.postgres import FAST_AND_FORGETFUL, Cluster
from kessa_launch.state_paths import CLONE, StatePaths, places

PARTS = ("core", "web", "reading", "browser")
IN_A_BROWSER = ("reading", "browser")
NEED_DATABASE = ("web", *IN_A_BROWSER)
BESIDE = "browser"
"""Takes about as long as all others together. More parts at once would want more than two cores,
and a browser that waits for one fails tests."""
SETTINGS = {
    "core": "tests.settings_core",
    "web": "tests.settings",
    "reading": "tests.settings_reading",
    "browser": "tests.settings_browser",
}


def run(arguments: list[str]) -> int:
    """Run everything, or the named part: lint, one of PARTS, or dotted test labels."""
    where = places()
    parts, labels = chosen(arguments)
    try:
        with hold(where.locks / "test", wait=False):
            stop_politely()
            return _test(where, parts, labels)
    except FileLock:
        raise LauncherError("The tests of this clone are already running.") from None
    except StopRequested:
        return 130


def chosen(arguments: list[str]) -> tuple[list[str], list[str]]:
    """The parts to run, and the labels and flags among *arguments*. Raises LauncherError."""
    names = [name for name in arguments if not name.startswith("-")]
    if not names:
        return ["lint", *PARTS], arguments
    if len(names) == 1 and names[0] in ("lint", *PARTS):
        return names, [a for a in arguments if a.startswith("-")]
    strange = [name for name in names if not any(_is_of(part, name) for part in PARTS)]
    if strange:
        raise LauncherError(
            f"{strange[0]!r} is no part of the tests. Parts: lint, {', '.join(PARTS)}."
        )
    parts = [part for part in PARTS if any(_is_of(part, name) for name in names)]
    return parts, arguments


def _is_of(part: str, label: str) -> bool:
    return label.startswith(f"tests.{part}.")


def _test(where: StatePaths, parts: list[str], labels: list[str]) -> int:
    if set(IN_A_BROWSER) & set(parts):
        chromium.ready()
    python = environment.ready(where)
    passed, failed = _suites(where, python, parts, labels)
    print(f"\n{passed} passed, {failed} failed", flush=True)
    return 1 if failed else 0


def _suites(
    where: StatePaths, python: Path, parts: list[str], labels: list[str]
) -> tuple[int, int]:
    """Run the parts one after the other; the longest runs beside them, its output comes last."""
    cluster = Cluster(where, "test", FAST_AND_FORGETFUL)
    needs_database = bool(set(NEED_DATABASE) & set(parts))
    beside = [part for part in parts if part == BESIDE and len(parts) > 1]
    found: list[tuple[int, int]] = []
    processes: list[subprocess.Popen[str]] = []
    try:
        database = cluster.start().variables() if needs_database else {}
        with ThreadPoolExecutor(1) as lane:
            later = [
                lane.submit(_suite, where, python, part, labels, database, processes, hold=True)
                for part in beside
            ]
            try:
                for part in parts:
                    if part == "lint":
                        found.append(_lint(where, python))
                    elif part not in beside:
                        found.append(_suite(where, python, part, labels, database, processes))
                found += [suite.result() for suite in later]
            except BaseException:
                for process in processes:
                    process.terminate()
                raise
    finally:
        if needs_database:
            cluster.stop()
    return sum(passed for passed, _ in found), sum(failed for _, failed in found)


def _lint(where: StatePaths, python: Path) -> tuple[int, int]:
    outcome = lint.checks(python, where)
    clean = sum(outcome.values())
    return clean, len(outcome) - clean


def _suite(
    where: StatePaths,
    python: Path,
    part: str,
    labels: list[str],
    database: dict[str, str],
    processes: list[subprocess.Popen[str]],
    *,
    hold: bool = False,
) -> tuple[int, int]:
    """Run one suite in a process of its own; one that dies counts as one failure.

    *processes* gains the process. *hold*: keep the output until the suite has ended.
    """
    if not hold:
        print(f"\n== {part} tests", flush=True)
    with tempfile.TemporaryDirectory(prefix="kessa-test-") as scratch:
        counts = Path(scratch) / "counts.json"
        (Path(scratch) / "static").mkdir()
        environ = environment.variables(
            as_owner(database)
            | {
                "KESSA_SECRET_KEY": "only-for-the-tests-" + "x" * 40,
                "KESSA_TEST_COUNTS": str(counts),
                "KESSA_MEDIA_ROOT": scratch,
                "KESSA_STATIC_ROOT": scratch + "/static",
                "DJANGO_SETTINGS_MODULE": SETTINGS[part],
                "PYTHONPATH": f"{CLONE / 'src'}{os.pathsep}{CLONE}",
                "HYPOTHESIS_STORAGE_DIRECTORY": str(where.home / "cache" / "hypothesis"),
            }
        )
        flags = [label for label in labels if label.startswith("-")]
        named = [label for label in labels if _is_of(part, label)] or [f"tests.{part}"]
        command = [str(python), "-m", "kessa", "test", "--noinput", *named, *flags]
        said = subprocess.PIPE if hold else None
        process = subprocess.Popen(
            command,
            env=environ,
            stdin=subprocess.DEVNULL,
            stdout=said,
            stderr=subprocess.STDOUT if hold else None,
            cwd=CLONE,
            text=True,
        )
        processes.append(process)
        output, _ = process.communicate()
        if hold:
            print(f"\n== {part} tests, run beside the others\n{output}", flush=True)
        if not counts.exists():
            return 0, 1
        tally = json.loads(counts.read_text())
        return tally["passed"], tally["failed"] or int(process.returncode != 0)
