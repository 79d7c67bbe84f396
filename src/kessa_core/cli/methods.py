"""./kessa methods list | show ID | check FILE | schema | simulate ID --true VALUE ..."""

import argparse
import json
from datetime import UTC, datetime
from typing import NoReturn

from kessa_core.cli.documents import find_method
from kessa_core.errors import CoreError, NotANumber
from kessa_core.methods import shipped, shipped_ids
from kessa_core.methods.schema import text as schema_text
from kessa_core.methods.shelf import shipped_text
from kessa_core.runs.export import write
from kessa_core.sheets import Setting, compile_sheet


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise CoreError(
            f"{message[:1].upper()}{message[1:]}. {' '.join(self.format_usage().split())}"
        )


def main(arguments: list[str]) -> int:
    """List, show, check or simulate method documents."""
    parser = _Parser(prog="kessa methods")
    commands = parser.add_subparsers(dest="what", required=True, parser_class=_Parser)
    commands.add_parser("list")
    commands.add_parser("schema")
    commands.add_parser("show").add_argument("id")
    commands.add_parser("check").add_argument("file")
    simulate = commands.add_parser("simulate")
    simulate.add_argument("id")
    simulate.add_argument("--true", type=float, required=True, help="mg/L")
    simulate.add_argument("--count", type=int, default=1)
    simulate.add_argument("--seed", type=int, default=1)
    simulate.add_argument("--into", help="folder for one file a run; else standard output")
    chosen = parser.parse_args(arguments)
    if chosen.what == "list":
        for method in map(shipped, shipped_ids()):
            print(f"{method.id}  version {method.version}  {method.title}")
    elif chosen.what == "schema":
        print(schema_text(), end="")
    elif chosen.what == "show":
        print(shipped_text(chosen.id), end="")
    elif chosen.what == "check":
        _check(chosen.file)
    else:
        _simulate(chosen)
    return 0


def _check(name: str) -> None:
    method = find_method(name)
    sheet = compile_sheet(method, Setting())
    size = len(json.dumps(sheet))
    print(f"{method.id} version {method.version}: in order. hash {method.hash}")
    counted = [f"{len(sheet[table])} {table}" for table in ("single", "pair", "beyond")]
    print(f"rows: {', '.join(counted)}")
    print("bands: none")
    print("later: a third determination; a pair with a doubtful or backed-off count; an odd blank")
    print(f"sheet: {size} bytes of JSON without a place's limits")


def _simulate(chosen: argparse.Namespace) -> None:
    from pathlib import Path

    import numpy as np

    from kessa_core.simulation.hands import work
    from kessa_core.simulation.script import events

    if not 0 <= chosen.true < 1e6 or not 1 <= chosen.count <= 100_000:
        raise NotANumber("--true must be 0 or more, --count from 1 to 100000.")
    method = find_method(chosen.id)
    rng = np.random.default_rng(chosen.seed)
    start = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
    for number in range(1, chosen.count + 1):
        text = write(method, events(method, work(method, chosen.true, rng), start, rng), {})
        if chosen.into:
            folder = Path(chosen.into)
            folder.mkdir(parents=True, exist_ok=True)
            (folder / f"{method.id}-{number:05}.jsonl").write_text(text, "utf-8")
        else:
            print(text, end="")
