"""How many one-line changes of the core its tests catch.

./kessa bench mutation [COUNT]: draws COUNT (300) of all changes that mutmut can make in readings,
runs, judging, influences and quality, leaving out the wording of sentences. Each is made in a copy
of the sources and meets the core tests that ran the changed line, quickest first, until one fails.
Goes on where it was stopped: what was found stands in FOUND, beside the other caches. Prints the
table of docs/science/mutation.md; benchmarks/equivalent.toml says which survivors change nothing.
"""

import hashlib
import json
import os
import shutil
import subprocess
import sys
import time
import tomllib
import venv
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from queue import Queue

from coverage import CoverageData

from kessa_launch.state_paths import CLONE, places

PACKAGES = ("readings", "runs", "judging", "influences", "quality")
COUNT = next((int(a) for a in sys.argv[1:] if a.isdecimal()), 300)
CORE = CLONE / "src" / "kessa_core"
FOLDER = places().home / "mutation"
DRAW = CLONE / "benchmarks" / "mutation_draw.py"
TOOL = CLONE / "benchmarks" / "mutation.txt"
FOUND = FOLDER / "found.jsonl"
WORKERS = os.cpu_count() or 1
SPARE_S = 60
"""What a set of tests may take beyond three times its usual time."""


@dataclass(frozen=True)
class Change:
    """One line of one file, and what it becomes."""

    path: str
    line: int
    was: str
    becomes: str

    @property
    def key(self) -> str:
        """Which change this is, wherever the line stands."""
        return f"{self.path} | {self.was} | {self.becomes}"


def drawn_changes() -> list[Change]:
    """COUNT changes, the same ones for the same sources; mutmut has an environment of its own."""
    tool = FOLDER / "tool"
    if not (tool / "bin" / "mutmut").exists():
        venv.create(tool, clear=True, with_pip=True)
        subprocess.run([tool / "bin" / "pip", "install", "-q", "-r", TOOL], check=True)
    drawn = subprocess.run(
        [tool / "bin" / "python", DRAW, CORE, str(COUNT), *PACKAGES],
        check=True, capture_output=True,
    )  # fmt: skip
    return [Change(**one) for one in json.loads(drawn.stdout)]


def covering() -> tuple[dict[str, dict[int, list[str]]], dict[str, float]]:
    """For each file and line the core tests that ran it; and the seconds of each test."""
    files = sorted((CLONE / "tests" / "core").rglob("*.py")) + sorted(CORE.rglob("*.py"))
    digest = hashlib.sha256(b"".join(path.read_bytes() for path in files)).hexdigest()[:12]
    kept, measured = FOLDER / f"took-{digest}.json", FOLDER / f"coverage-{digest}"
    if not kept.exists():
        environ = {**os.environ, "COVERAGE_FILE": str(measured), "KESSA_TOOK": str(kept)}
        settings = FOLDER / "coveragerc"
        settings.write_text(f"[run]\ndynamic_context = test_function\nsource = {CORE}\n")
        subprocess.run(
            [sys.executable, "-m", "coverage", "run", f"--rcfile={settings}", "-m",
             "benchmarks.timed_core"],
            env=environ, cwd=CLONE, check=True,
        )  # fmt: skip
    data = CoverageData(str(measured))
    data.read()
    lines = {
        str(Path(name).relative_to(CORE)): {
            line: [one for one in tests if one]
            for line, tests in data.contexts_by_lineno(name).items()
        }
        for name in data.measured_files()
    }
    return lines, json.loads(kept.read_text())


LINES: dict[str, dict[int, list[str]]] = {}
TOOK: dict[str, float] = {}


def tests_for(change: Change) -> list[str]:
    """Tests that ran the line, the quickest first. For a line run at import, all of them, those
    that ran any line of the file first."""
    lines = LINES.get(change.path, {})
    if names := set(lines.get(change.line, ())):
        return sorted((n for n in names if n in TOOK), key=lambda name: TOOK[name])
    near = {one for tests in lines.values() for one in tests}
    return sorted(TOOK, key=lambda name: (name not in near, TOOK[name]))


def meet(change: Change, copy: Path) -> str:
    """What the tests say of one change: caught or survived."""
    names = tests_for(change)
    place = copy / "src" / "kessa_core" / change.path
    source = place.read_text()
    mutated = source.splitlines(keepends=True)
    mutated[change.line - 1] = mutated[change.line - 1].replace(change.was, change.becomes, 1)
    place.write_text("".join(mutated))
    environ = {**os.environ, "PYTHONPATH": f"{copy / 'src'}{os.pathsep}{copy}"}
    try:
        ended = subprocess.run(
            [sys.executable, "-m", "unittest", "-f", *names],
            cwd=copy, env=environ, capture_output=True,
            timeout=SPARE_S + 3 * sum(TOOK[name] for name in names),
        )  # fmt: skip
        return "survived" if ended.returncode == 0 else "caught"
    except subprocess.TimeoutExpired:
        return "caught"
    finally:
        place.write_text(source)


def copies() -> Queue[Path]:
    """A copy of sources and tests for each worker."""
    made: Queue[Path] = Queue()
    for number in range(WORKERS):
        copy = FOLDER / f"copy-{number}"
        shutil.rmtree(copy, ignore_errors=True)
        for part in ("src", "tests", "docs"):
            shutil.copytree(CLONE / part, copy / part, ignore=shutil.ignore_patterns("__pycache__"))
        made.put(copy)
    return made


@cache
def judged() -> dict[str, str]:
    """Why a change changes nothing, by its key."""
    told = tomllib.loads((Path(__file__).parent / "equivalent.toml").read_text())["change"]
    return {f"{one['path']} | {one['was']} | {one['becomes']}": one["why"] for one in told}


def main() -> None:
    """Run what was not run, then print the table."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    drawn = drawn_changes()
    known = {}
    if FOUND.exists():
        known = {one["key"]: one["said"] for one in map(json.loads, FOUND.read_text().splitlines())}
    lines, took = covering()
    LINES.update(lines)
    TOOK.update(took)
    free, begun = copies(), time.monotonic()

    def run(change: Change) -> None:
        copy = free.get()
        try:
            said = meet(change, copy)
        finally:
            free.put(copy)
        known[change.key] = said
        with FOUND.open("a") as file:
            file.write(json.dumps({"key": change.key, "said": said}) + "\n")
        print(f"{time.monotonic() - begun:6.0f} s {said:9} {change.key}", flush=True)

    with ThreadPoolExecutor(WORKERS) as pool:
        list(pool.map(run, [one for one in drawn if known.get(one.key) != "caught"]))
    table(drawn, known)


def table(drawn: list[Change], known: dict[str, str]) -> None:
    """By package: drawn, equivalent, caught; then every survivor."""
    counts: Counter[tuple[str, str]] = Counter()
    left = []
    for one in drawn:
        package, said = one.path.split("/")[0], known[one.key]
        if said != "caught":
            said = "equivalent" if one.key in judged() else "survived"
            left.append(f"- {said}: `{one.path}` `{one.was}` → `{one.becomes}`")
            left[-1] += f": {judged()[one.key]}" if one.key in judged() else ""
        for name in (package, "all"):
            counts[name, "drawn"] += 1
            counts[name, said] += 1
    print(
        "| package | drawn | equivalent | caught | of the others |\n| --- | --- | --- | --- | --- |"
    )
    for name in (*PACKAGES, "all"):
        n, same, caught = (counts[name, what] for what in ("drawn", "equivalent", "caught"))
        print(f"| {name} | {n} | {same} | {caught} | {100 * caught / max(n - same, 1):.1f} % |")
    print("\n" + "\n".join(left))


if __name__ == "__main__":
    main()
