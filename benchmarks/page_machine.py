"""How many one-line changes of the page's machine the corpus of histories catches.

./kessa bench page_machine [COUNT]: draws COUNT (100) of all changes that CHANGES can make in the
page's machine, leaving out what is no longer a program. Each is folded in Chromium with the
histories of tests/browser/test_machine.py until one comes to another state than the core's.
EQUIVALENT says which survivors change nothing, each judged by hand.
"""

import json
import random
import re
import sys
import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from playwright.sync_api import Browser, Error, sync_playwright
from tests.browser.page_machine import (
    EACH,
    MACHINE,
    MODULES,
    as_input,
    page_with_machine,
    said_by_the_page,
)
from tests.browser.page_machine import folded_by_the_page as folded
from tests.builders.histories import History, drawn_histories
from tests.builders.machine_state import said_by_the_core, scales_of, state_of_history

COUNT = next((int(a) for a in sys.argv[1:] if a.isdecimal()), 100)
EQUIVALENT = Path(__file__).parent / "page_equivalent.toml"
FOLDS = tuple(name for name in MACHINE if name != "rows.js")
CHROMIUM = "/usr/bin/chromium"
PIECE = 60
CHANGES: tuple[tuple[str, str], ...] = (
    (r"===", "!=="), (r"!==", "==="), (r"<=", "<"), (r">=", ">"),
    (r"(?<= )<(?= )", "<="), (r"(?<= )>(?= )", ">="), (r"&&", "||"), (r"\|\|", "&&"),
    (r"\?\?", "&&"), (r" \+ ", " - "), (r" - ", " + "), (r" \* ", " / "), (r" \+= ", " -= "),
    (r"\btrue\b", "false"), (r"\bfalse\b", "true"), (r"(?<![\w.])0(?![\w.])", "1"),
    (r"(?<![\w.])1(?![\w.])", "2"), (r"(?<![\w.])2(?![\w.])", "3"), (r'"[^"]+"', '"other"'),
    (r"!(?=[a-z(])", ""), (r"\.some\(", ".every("), (r"\.find\(", ".findLast("),
    (r"\.findLast\(", ".find("), (r"\.at\(-1\)", ".at(0)"), (r"Math\.max", "Math.min"),
    (r"Math\.min", "Math.max"), (r"\.filter\(.*?\)(?=[;.)])", ""), (r"\.slice\([^)]*\)", ""),
    (r"return (?!\{|false|null)[^;]+;", "return;"), (r"^ +[\w.]+\([^;]*\);$", ""),
    (r"^ +[\w.]+ \+?= [^;]*;$", ""), (r"if \((?=[a-z!])", "if (!("),
    (r"\.includes\(", ".concat("), (r" \? ", " && false ? "),
)  # fmt: skip
"""What becomes of a place in a line. A negated condition gets its second bracket below."""


@dataclass(frozen=True)
class Change:
    """One line of one module, and what it becomes."""

    module: str
    line: int
    was: str
    becomes: str

    @property
    def key(self) -> str:
        return f"{self.module} | {self.was.strip()} | {self.becomes.strip()}"

    def texts(self) -> dict[str, str]:
        """The module with this line changed."""
        lines = (MODULES / self.module).read_text("utf-8").splitlines()
        lines[self.line] = self.becomes
        return {self.module: "\n".join(lines)}


def every_change() -> Iterator[Change]:
    """All of them, in the order of the modules. Words, imports and the one loop that counts down
    stay: a loop that never ends tells nothing."""
    for module in FOLDS:
        for number, line in enumerate((MODULES / module).read_text("utf-8").splitlines()):
            if line.lstrip().startswith(("//", "import", "export {", "for (let")):
                continue
            for pattern, becomes in CHANGES:
                for found in re.finditer(pattern, line):
                    changed = line[: found.start()] + becomes + line[found.end() :]
                    if becomes == "if (!(":
                        changed = _negated(line, found)
                    if changed != line:
                        yield Change(module, number, line, changed)


def _negated(line: str, found: re.Match[str]) -> str:
    """The condition that begins here, turned round."""
    depth = 1
    for at in range(found.end(), len(line)):
        depth += {"(": 1, ")": -1}.get(line[at], 0)
        if not depth:
            return f"{line[: found.end()]}!({line[found.end() : at]}){line[at:]}"
    return line


class Corpus:
    """The histories in pieces, as the page takes them, each with what the core makes of it."""

    def __init__(self, histories: list[History]) -> None:
        histories = sorted(histories, key=lambda one: random.Random(len(one.events)).random())
        pieces = [histories[at : at + PIECE] for at in range(0, len(histories), PIECE)]
        self.pieces = [(as_input(piece), [expected(one) for one in piece]) for piece in pieces]
        self.scales, self.typed = scales_of(histories)
        self.said = json.loads(json.dumps(said_by_the_core(histories, self.typed)))

    def catches(self, browser: Browser, change: Change) -> str:
        """ "caught", "survived", or "no program"."""
        page = None
        try:
            page = page_with_machine(browser, change.texts())
            if said_by_the_page(page, self.scales, self.typed) != self.said:
                return "caught"
            for given, states in self.pieces:
                found = folded(page, given)
                for one in found:
                    one.pop("figures", None)
                if found != states:
                    return "caught"
        except Error as error:
            return "no program" if "SyntaxError" in str(error) else "caught"
        finally:
            if page:
                page.close()
        return "survived"


def expected(history: History) -> dict[str, Any]:
    """The core's state as it comes back from JSON."""
    return json.loads(json.dumps(state_of_history(history)))


def main() -> None:
    """Draw, fold, print the table and every survivor."""
    judged = {one["key"]: one["why"] for one in tomllib.loads(EQUIVALENT.read_text())["change"]}
    drawn = list(dict.fromkeys(every_change()))
    random.Random(0).shuffle(drawn)
    corpus = Corpus(list(drawn_histories(EACH)))
    said: list[tuple[str, Change]] = []
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox"]
        )
        for change in drawn:
            how = corpus.catches(browser, change)
            if how != "no program":
                said.append((how, change))
            if len(said) == COUNT:
                break
    left = [change for how, change in said if how == "survived"]
    same = [change for change in left if change.key in judged]
    caught = len(said) - len(left)
    print("| possible | drawn | equivalent | caught | of the others |")
    print("| --- | --- | --- | --- | --- |")
    share = 100 * caught / max(len(said) - len(same), 1)
    print(f"| {len(drawn)} | {len(said)} | {len(same)} | {caught} | {share:.1f} % |\n")
    for change in left:
        why = judged.get(change.key)
        print(f"- {'equivalent' if why else 'survived'}: `{change.key}`{': ' + why if why else ''}")


if __name__ == "__main__":
    main()
