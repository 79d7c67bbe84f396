"""Classes in templates are there in the styles, and templates keep to their form."""

import re
import unittest
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).parents[2] / "src" / "kessa"
LONGEST = 110
TEMPLATE_TAG = re.compile(r"\{%.*?%\}|\{\{.*?\}\}", re.S)
HOOKS = {
    "answers", "dilutions", "fig-text", "g", "note", "told-sign", "what", "when",
}  # fmt: skip
"""What scripts and tests find elements by, without a style."""


def templates() -> list[Path]:
    return sorted(SOURCE.rglob("*.html"))


def used() -> Iterator[tuple[str, str]]:
    """Every class of every template, with the template's name."""
    for path in templates():
        for value in re.findall(
            r'class="((?:[^"{]|\{\{.*?\}\}|\{%.*?%\})*)"', path.read_text("utf-8")
        ):
            for name in TEMPLATE_TAG.sub(" ", value).split():
                if not name.endswith("-"):
                    yield path.name, name


def styled() -> set[str]:
    """Every class that a style names."""
    texts = [path.read_text("utf-8") for path in SOURCE.rglob("*.css")]
    return {name for text in texts for name in re.findall(r"\.([a-z][\w-]*)", text)}


class Styles(unittest.TestCase):
    def test_classes_are_in_the_styles(self) -> None:
        """One that is in no part of Bulma that is compiled does nothing."""
        known = styled() | HOOKS
        missing = {(where, name) for where, name in used() if name not in known}
        missing = {(where, name) for where, name in missing if not name.startswith("r-")}
        self.assertEqual(missing, set())

    def test_no_line_is_too_long(self) -> None:
        long = [
            f"{path.name}:{number}"
            for path in templates()
            for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
            if len(line) > LONGEST
        ]
        self.assertEqual(long, [])
