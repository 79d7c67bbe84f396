"""./kessa lint: Python, templates, styles, scripts; types and import contracts."""

import subprocess
from pathlib import Path

from kessa_launch import environment, node_tools
from kessa_launch.state_paths import CLONE, StatePaths, places


def run(_arguments: list[str]) -> int:
    """Run every check and say which failed."""
    where = places()
    outcome = checks(environment.ready(where), where)
    return 0 if all(outcome.values()) else 1


def checks(python: Path, where: StatePaths) -> dict[str, bool]:
    """Each check's name and whether it passed; caches stay outside the clone."""
    cache = where.home / "cache"
    cache.mkdir(exist_ok=True)
    tools = python.parent
    node = node_tools.ready(where)
    templates = [str(path) for path in sorted((CLONE / "src" / "kessa").rglob("*.html"))]
    folders = [name for name in ("src", "tests", "benchmarks", "tools") if (CLONE / name).exists()]
    commands = {
        "ruff check": [f"{tools}/ruff", "check", "--quiet", *folders],
        "ruff format": [f"{tools}/ruff", "format", "--check", "--quiet", *folders],
        "mypy": [f"{tools}/mypy", "--no-error-summary"],
        "import contracts": [f"{tools}/lint-imports", "--no-cache"],
        "templates, indentation": [f"{tools}/djhtml", "--check", "--tabwidth", "2", *templates],
        "templates": [f"{tools}/djlint", "--lint", "--quiet", *templates],
        "styles and scripts": [f"{node}/biome", "ci", "--colors=off", "."],
        "types of scripts": [f"{node}/tsc", "--project", "tsconfig.json"],
    }
    environ = environment.variables(
        {
            "RUFF_CACHE_DIR": str(cache / "ruff"),
            "MYPY_CACHE_DIR": str(cache / "mypy"),
            "KESSA_SECRET_KEY": "for the types of the models alone",
            "KESSA_DEMO": "1",
        }
    )
    outcome = {}
    for name, command in commands.items():
        done = subprocess.run(command, env=environ, cwd=CLONE, capture_output=True, text=True)
        outcome[name] = done.returncode == 0
        print(f"{name}: {'clean' if outcome[name] else 'failed'}", flush=True)
        if done.returncode:
            print(done.stdout + done.stderr, flush=True)
    return outcome
