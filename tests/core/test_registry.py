"""A principle is one module and one drawing; nothing else asks how a stage is read."""

import re
import unittest
from pathlib import Path

from kessa_core.methods import shipped, shipped_ids
from kessa_core.readings.registry import READERS

SOURCE = Path(__file__).parents[2] / "src"
DRAWINGS = SOURCE / "kessa" / "bench" / "templates" / "bench" / "instruments"
ITS_OWN = ("readings", "simulation", "instruments", "shipped")


class Registry(unittest.TestCase):
    def test_every_principle_is_drawn_and_shipped(self) -> None:
        """A drawing, and a method that shows it."""
        drawn = {path.stem for path in DRAWINGS.glob("*.html")}
        used = {stage.reading.by for name in shipped_ids() for stage in shipped(name).stages}
        self.assertLessEqual(set(READERS), drawn)
        self.assertEqual(set(READERS), used)

    def test_nothing_else_asks_how_a_stage_is_read(self) -> None:
        """No branch on a principle's name outside its own rooms."""
        asked = re.compile(r"\bby\b\s*(==|===|!=|in\b)|\.by\.startswith")
        found = [
            f"{path.relative_to(SOURCE)}: {line.strip()}"
            for kind in ("*.py", "*.js", "*.html")
            for path in SOURCE.rglob(kind)
            if not set(ITS_OWN) & set(path.parts) and "vendor" not in path.parts
            for line in path.read_text("utf-8").splitlines()
            if asked.search(line) and re.search(r"reading|stage|part|\bi\.", line)
        ]
        self.assertEqual(found, [])
