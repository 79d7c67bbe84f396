"""docs/SECURITY.md names tests that exist, and no requirement twice."""

import ast
import re
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[2]
ROW = re.compile(r"^\| (\d+\.\d+\.\d+[^|]*) \|", re.M)
NAMED = re.compile(r"`(test_\w+(?:\.\w+)*)`")


def known() -> set[str]:
    """Every test module, class and method, as the table names them."""
    found = set()
    for path in (ROOT / "tests").glob("*/test_*.py"):
        found.add(path.stem)
        for node in ast.parse(path.read_text("utf-8")).body:
            if isinstance(node, ast.ClassDef):
                name = f"{path.stem}.{node.name}"
                found.add(name)
                found |= {f"{name}.{one.name}" for one in node.body if hasattr(one, "name")}
    return found


def numbers(cell: str) -> list[str]:
    """The requirements of a row: "2.1.1, 2.1.3" or "3.4.1 to 3.4.5"."""
    if " to " in cell:
        first, last = cell.split(" to ")
        chapter = first.rpartition(".")[0]
        ends = int(first.rpartition(".")[2]), int(last.rpartition(".")[2])
        return [f"{chapter}.{n}" for n in range(ends[0], ends[1] + 1)]
    return cell.split(", ")


class SecurityTable(unittest.TestCase):
    def setUp(self) -> None:
        self.text = (ROOT / "docs" / "SECURITY.md").read_text("utf-8")

    def test_every_test_it_names_exists(self) -> None:
        named = set(NAMED.findall(self.text))
        self.assertGreater(len(named), 30)
        self.assertEqual(named - known(), set())

    def test_each_requirement_stands_once(self) -> None:
        listed = [one for cell in ROW.findall(self.text) for one in numbers(cell.strip())]
        self.assertGreater(len(listed), 150)
        self.assertEqual(sorted(listed), sorted(set(listed)))
