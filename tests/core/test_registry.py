"""A principle is one module and one drawing; nothing else asks how a stage is read."""

import re
import unittest
from pathlib import Path
from typing import get_args

from kessa_core.methods import shipped, shipped_ids
from kessa_core.methods.steps import Picture
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
        """No branch on a principle outside its own modules: a difference is a method of it."""
        found = [
            f"{path.relative_to(SOURCE)}: {line.strip()}"
            for kind in ("*.py", "*.js", "*.html")
            for path in SOURCE.rglob(kind)
            if not set(ITS_OWN) & set(path.parts) and "vendor" not in path.parts
            for line in path.read_text("utf-8").splitlines()
            if (asks_how_it_is_read(line) and path.suffix == ".py") or asks_by_name(line)
        ]
        self.assertEqual(found, [])

    def test_such_questions_are_found(self) -> None:
        """Each way in which such a branch was once written."""
        for line in (
            "if reader.counts:", 'unit = reader.counts or "steps"', "if principle.counts:",
            "if isinstance(reader, Counting):", 'if hasattr(reader.part, "absent_below"):',
            'portion = getattr(stage.reading, "portion_ml", None)',
            "slots=() if self.reader.counts else self.reader.slots_here",
            "if not get_reading_type(self.reading).counts:",
            "elif isinstance(stage.reading, DropPart):",
            "each = part.per_tablet if stage.reading else 0", "if type(reader) is DropCount:",
        ):  # fmt: skip
            with self.subTest(line=line):
                self.assertTrue(asks_how_it_is_read(line))
        for line in ('if stage.reading.by == "burette":', "{% if part.by == 'meter' %}"):
            with self.subTest(line=line):
                self.assertTrue(asks_by_name(line))


def asks_by_name(line: str) -> bool:
    """A branch on a principle's name."""
    asked = re.search(r"\bby\b\s*(==|===|!=|in\b)|\.by\.startswith", line)
    return bool(asked and re.search(r"reading|stage|part|\bi\.", line))


def asks_how_it_is_read(line: str) -> bool:
    """A branch on what a principle is, or on what its part of the document happens to have."""
    its = r"(reader|principle|get_reading_type\([^)]*\)|\.reading|\.part)\b"
    return any(
        re.search(pattern, line)
        for pattern in (
            rf"{its}(\(\))?\.counts\b(?!\()[^,]*(:|\bor\b|\belse\b|\band\b)",
            r"get_reading_type\([^)]*\)\.counts\b",
            rf"\b(isinstance|hasattr|getattr|type)\([^,]*{its}",
            r"\b(part|reading)\.(per_tablet|start_colour|portion_ml|factor|most)\b",
        )
    )


class Pictures(unittest.TestCase):
    def test_every_picture_a_document_may_name_is_drawn(self) -> None:
        """Each name of the format has a drawing of that name, and nothing else does."""
        folder = SOURCE / "kessa/ui/templates/ui/pictures"
        drawn = [
            name
            for file in folder.glob("*.html")
            for name in re.findall(r'data-picture="([a-z]+)"', file.read_text("utf-8"))
        ]
        self.assertEqual(set(drawn), {file.stem for file in folder.glob("*.html")})
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
