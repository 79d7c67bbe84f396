"""./kessa methods list | show ID | check FILE | schema | simulate ID --true VALUE ..."""

import argparse
import json
from datetime import UTC, datetime
from typing import NoReturn

from kessa_core.cli.documents import find_method
from kessa_core.errors import CoreError, NotANumber, UnknownName
from kessa_core.judging.context import PointContext
from kessa_core.methods import Method, shipped, shipped_ids
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.schema import text as schema_text
from kessa_core.runs.export import write
from kessa_core.sheets import compile_sheet
from kessa_core.sheets.tables import kinds


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
    simulate.add_argument("--true", required=True, help="one value, or stage=value,stage=value")
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
    """Says that the document is in order, and the kind of every outcome of its sheet."""
    method = find_method(name)
    sheet = compile_sheet(method, PointContext())
    size = len(json.dumps(sheet))
    print(f"{method.id} version {method.version}: in order. hash {method.hash}")
    for stage, made in zip(method.stages, sheet["stages"], strict=True):
        print(f"{stage.id}, {stage.reader().words}")
        for outcome, kind in kinds(stage, stage.reader(), made).items():
            print(f"  {outcome}: {kind}")
    for one in method.derived:
        print(f"{one.id}, by difference\n  later: the value")
    print(f"sheet: {size} bytes of JSON without a place's limits")


def _truths(method: Method, text: str) -> dict[str, float]:
    """True values by stage; "stage:reference" is the water beside it."""
    pairs = [part.rpartition("=")[::2] for part in text.split(",")]
    named = dict(pairs) if pairs[0][0] else {stage.id: text for stage in method.stages}
    try:
        truths = {name.strip(): float(value) for name, value in named.items()}
    except ValueError:
        raise NotANumber("--true takes a number, or stage=number pairs.") from None
    if unknown := sorted(
        {name.partition(":")[0] for name in truths} - {s.id for s in method.stages}
    ):
        raise UnknownName(f"There is no stage {', '.join(unknown)} in {method.id}.")
    for stage in method.stages:
        least, value = stage.reader().least, truths.get(stage.id, 0.0)
        if not least <= value < 1e6:
            raise NotANumber(f"--true must lie from {least:g} to 1000000 for {stage.id}.")
    return truths


def _simulate(chosen: argparse.Namespace) -> None:
    from pathlib import Path

    import numpy as np

    from kessa_core.simulation.hands import work
    from kessa_core.simulation.script import events

    if not 1 <= chosen.count <= 100_000:
        raise NotANumber("--count must lie from 1 to 100000.")
    method = find_method(chosen.id)
    truths = _truths(method, chosen.true)
    rng = np.random.default_rng(chosen.seed)
    start = datetime(2026, 1, 5, 9, 0, tzinfo=UTC)
    for number in range(1, chosen.count + 1):
        text = write(method, events(method, work(method, truths, rng), start, rng), {})
        if chosen.into:
            folder = Path(chosen.into)
            folder.mkdir(parents=True, exist_ok=True)
            (folder / f"{method.id}-{number:05}.jsonl").write_text(text, "utf-8")
        else:
            print(text, end="")
