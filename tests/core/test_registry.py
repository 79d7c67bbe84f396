"""A principle is one module and one drawing; nothing else asks how a stage is read."""

import re
import unittest
from pathlib import Path
from typing import get_args

from kessa_core.methods import shipped, shipped_ids
from kessa_core.methods.parts import Picture
from kessa_core.readings.registry import READERS

SOURCE = Path(__file__).parents[2] / "src"
DRAWINGS = SOURCE / "kessa" / "ui" / "templates" / "ui" / "instruments"
ITS_OWN = ("readings", "simulation", "instruments", "shipped")


class Registry(unittest.TestCase):
    def test_every_principle_is_drawn_and_shipped(self) -> None:
        """A drawing, and a method that shows it."""
        drawn = {path.stem for path in DRAWINGS.glob("*.html")}
        used = {stage.reading.by for name in shipped_ids() for stage in shipped(name).stages}
        self.assertLessEqual(set(READERS), drawn)
        self.assertEqual(set(READERS), used)

    def test_nothing_else_asks_how_a_stage_is_read(self) -> None:
        """No branch on a principle's name outside its own modules."""
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


class Pictures(unittest.TestCase):
    def test_every_picture_a_document_may_name_is_drawn(self) -> None:
        """Each name of the format stands in the bench page's drawings, and nothing else does."""
        template = (SOURCE / "kessa/pages/bench/templates/bench/pictures.html").read_text("utf-8")
        drawn = re.findall(r'data-picture="([a-z]+)"', template)
        self.assertEqual(len(drawn), len(set(drawn)))
        # A count shows its own instrument, so no drawing of it is needed.
        self.assertEqual(set(drawn), set(get_args(Picture)) - {"count"})

    def test_pictures_show_what_their_step_says(self) -> None:
        """A pH scale only where pH is asked, a thermometer where temperature is, a dropper only for
        drops."""
        for name in shipped_ids():
            for step in shipped(name).every_step:
                words = f"{step.title} {step.lead or ''}"
                with self.subTest(method=name, step=step.id):
                    if step.picture == "ph":
                        self.assertIn("pH", words)
                    if step.picture == "thermometer":
                        self.assertRegex(words, "cool|°C|thermometer|Hot")
                    if step.picture == "reagent":
                        self.assertRegex(words, "drops")
                    if step.picture == "probe":
                        self.assertIn("probe", words)
