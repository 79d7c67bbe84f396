"""Draws one-line changes with mutmut; run by the tool's own Python.

mutation_draw.py FOLDER COUNT PACKAGE...: prints COUNT of all changes in these packages as JSON, the
wording of sentences left out.
"""

import hashlib
import json
import re
import sys
from pathlib import Path

from mutmut import Context, RelativeMutationID, list_mutations, mutate


def one_line(source: str, mutated: str) -> tuple[int, str, str] | None:
    """Which line differs, from one, what it was and what it becomes; None where more lines do."""
    was, becomes = source.splitlines(), mutated.splitlines()
    if len(was) != len(becomes):
        return None
    differ = [at for at, line in enumerate(was) if line != becomes[at]]
    if len(differ) != 1:
        return None
    at = differ[0]
    return at + 1, was[at].strip(), becomes[at].strip()


def is_wording(was: str, becomes: str) -> bool:
    """Whether only a text that people read changes: it has a space in it."""
    added = "XX" in becomes and "XX" not in was
    return added and bool(re.search(r"XX[^X]* [^X]*", becomes))


def by_lot(one: tuple[Path, RelativeMutationID]) -> str:
    """A place drawn by lot, which changes of other lines do not move."""
    path, change = one
    return hashlib.sha256(f"300 {path.name} {change.line} {change.index}".encode()).hexdigest()


def main() -> None:
    """Draw until there are enough."""
    folder, count = Path(sys.argv[1]), int(sys.argv[2])
    every = [
        (path, one)
        for package in sys.argv[3:]
        for path in sorted((folder / package).rglob("*.py"))
        for one in list_mutations(Context(source=path.read_text()))
    ]
    every.sort(key=by_lot)
    found = []
    for path, one in every:
        source = path.read_text()
        change = one_line(source, mutate(Context(source=source, mutation_id=one))[0])
        if change and not is_wording(*change[1:]):
            line, was, becomes = change
            name = str(path.relative_to(folder))
            found.append({"path": name, "line": line, "was": was, "becomes": becomes})
        if len(found) == count:
            break
    print(json.dumps(found))


if __name__ == "__main__":
    main()
