"""./kessa limits list | show ID | check FILE | compare ONE OTHER | schema: limit sets."""

import argparse
from pathlib import Path

from kessa_core.drafts.problems import text_of
from kessa_core.judging import LimitSet, limit_set, limit_sets
from kessa_core.judging.editions import compare
from kessa_core.judging.limit_sets import load_limits
from kessa_core.judging.schema import text as schema_text


def main(arguments: list[str]) -> int:
    """List, show, check or compare limit sets; an ID is a shipped set, or a file."""
    parser = argparse.ArgumentParser(prog="kessa limits")
    commands = parser.add_subparsers(dest="what", required=True)
    commands.add_parser("list")
    commands.add_parser("schema")
    commands.add_parser("show").add_argument("id")
    commands.add_parser("check").add_argument("file")
    two = commands.add_parser("compare")
    two.add_argument("one")
    two.add_argument("other")
    chosen = parser.parse_args(arguments)
    if chosen.what == "list":
        for held in limit_sets().values():
            print(f"{held.id}  {held.edition}  {held.title}, {len(held.limits)} limits")
    elif chosen.what == "schema":
        print(schema_text(), end="")
    elif chosen.what == "show":
        print(text_of(limit_set(chosen.id).model_dump(mode="json", exclude_defaults=True)), end="")
    elif chosen.what == "check":
        held = load_limits(Path(chosen.file).read_text("utf-8"))
        print(f"{held.id}, {held.edition}: in order, {len(held.limits)} limits.")
    else:
        _compare(_found(chosen.one), _found(chosen.other))
    return 0


def _found(name: str) -> LimitSet:
    """A shipped set by its id, or the set in a file."""
    return load_limits(Path(name).read_text("utf-8")) if Path(name).is_file() else limit_set(name)


def _compare(older: LimitSet, newer: LimitSet) -> None:
    """Says what differs in the newer set, a line for each field."""
    for change in compare(older, newer):
        if not change.fields:
            print(f"{change.limit.id}: {change.kind}")
        for field in change.fields:
            print(f"{change.limit.id}: {field.name}: {field.before or '-'} -> {field.after or '-'}")
