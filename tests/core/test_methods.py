"""The method document: what ships is in order, and a wrong document says line, path and remedy."""

import json
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from kessa_core.documents.load import MAX_BYTES
from kessa_core.errors import UnknownName
from kessa_core.methods import InvalidDocument, load, shipped, shipped_ids
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.schema import text as schema_text

DOCS = Path(__file__).parents[2] / "docs"


def problem(text: str):
    """The first problem of a document."""
    try:
        load(text)
    except InvalidDocument as error:
        return error.problems[0]
    raise AssertionError("the document was taken")


class Shipped(unittest.TestCase):
    def test_printed_factors_follow_from_the_kit(self) -> None:
        """8.3 and 24.9 mg/L a drop; the small portion follows when the large one ends."""
        big, small = shipped("chloride-drops-15ml"), shipped("chloride-drops-5ml")
        self.assertAlmostEqual(big.stages[0].reading.exact, 8.2953, places=4)
        self.assertAlmostEqual(small.stages[0].reading.exact, 24.8859, places=4)
        self.assertEqual(big.followers, (small.id,))

    def test_every_method_that_is_named_exists(self) -> None:
        """A document that sends a person on names a shipped document."""
        for method in map(shipped, shipped_ids()):
            self.assertLessEqual(set(method.followers), set(shipped_ids()))

    def test_hash_is_of_the_content_and_not_of_the_spacing(self) -> None:
        """Comments do not change a document's hash; a figure does."""
        text = shipped_text("chloride-drops-15ml")
        self.assertEqual(load("# again\n" + text).hash, load(text).hash)
        self.assertNotEqual(load(text.replace("most: 24", "most: 25")).hash, load(text).hash)

    def test_the_published_schema_is_the_models(self) -> None:
        """docs/method.schema.json is what ./kessa methods schema prints."""
        self.assertEqual((DOCS / "method.schema.json").read_text("utf-8"), schema_text())
        self.assertFalse(json.loads(schema_text())["additionalProperties"])

    def test_a_name_that_is_not_shipped(self) -> None:
        """The error lists what is."""
        with self.assertRaisesRegex(UnknownName, "chloride-drops-5ml"):
            shipped("chlorid")


class Mistakes(unittest.TestCase):
    def setUp(self) -> None:
        self.text = shipped_text("chloride-drops-15ml")

    def at(self, part: str) -> int:
        return next(i for i, line in enumerate(self.text.splitlines(), 1) if part in line)

    def test_each_mistake_names_line_path_and_remedy(self) -> None:
        """A typing error in a key, a word, a number, a missing key, a factor that cannot be."""
        for old, new, path, says in (
            (
                "passes_at_most",
                "passes_atmost",
                "stages[0].blank.passes_atmost",
                "Did you mean passes_at_most?",
            ),
            ("kind: count", "kind: cuont", "stages[0].steps[6].kind", "Did you mean count?"),
            ("sd: 0.3", "sd: wide", "stages[0].influences[4].sd", "valid number"),
            (
                " portion_ml: 15",
                " portion_ml: -15",
                "stages[0].reading.portion_ml",
                "greater than 0",
            ),
            ('factor: "8.3"', 'factor: "8.4"', "stages[0].reading", "they give 8.295"),
            ("basis: Cl", "basis: Cl2", "stages[0].measures", "basis must be one of: Cl, NaCl"),
            ("    title: Chloride\n", "", "stages[0].title", "missing"),
        ):
            with self.subTest(new=new):
                self.assertIn(old, self.text)
                try:
                    load(self.text.replace(old, new, 1))
                    self.fail("the document was taken")
                except InvalidDocument as error:
                    found = next(p for p in error.problems if p.path == path)
                    self.assertIn(says, f"{found.what} {found.remedy}")
                    if says.startswith(("Did", "valid", "greater")):
                        self.assertEqual(found.line, self.at(old))

    def test_rules_between_parts(self) -> None:
        """Answers without a cause, doubled ids, a run that leads to itself, no change entry."""
        for old, new, says in (
            (", cause: start colour was wrong", "", "say the cause"),
            ("id: rinse-sample", "id: rinse-deionised", "used twice"),
            ("method: chloride-drops-5ml", "method: chloride-drops-15ml", "another one"),
            ("\nversion: 4", "\nversion: 5", "an entry for this version"),
            ("  - {of: eye, ", "  - {of: portion, ", "used twice: portion"),
        ):
            with self.subTest(new=new):
                self.assertIn(says, str(problem(self.text.replace(old, new, 1))))

    def test_a_strangers_document_is_limited(self) -> None:
        """Aliases, doubled keys, depth, size and tags are refused with their line."""
        for text, says in (
            ("a: &x [1]\nb: *x\n", "line 2: Aliases"),
            ("format: x\nformat: y\n", "line 2, format: This key stands twice"),
            ("a: " + "[" * 40 + "]" * 40, "Too deep"),
            ("a: " + "x" * MAX_BYTES, "too large"),
            ("format: !!python/object:os.system x\n", "cannot be read"),
            ("", "empty"), ("- 1\n", "not a mapping"), ("a: [1\n", "This is not YAML"),
        ):  # fmt: skip
            with self.subTest(text=text[:40]):
                self.assertIn(says, str(problem(text)))

    @settings(max_examples=150)
    @given(st.text(max_size=300))
    def test_no_text_breaks_the_reader(self, text: str) -> None:
        """Whatever stands in a document, the answer is BadDocument."""
        with self.assertRaises(InvalidDocument):
            load(text)
