"""Limit sets as documents: editions beside each other, drafts, the schema, the command line."""

import contextlib
import io
import tempfile
import unittest
from pathlib import Path

from pydantic import ValidationError

from kessa_core.cli.__main__ import main
from kessa_core.documents.load import InvalidDocument
from kessa_core.errors import UnknownName
from kessa_core.judging import limit_set, limit_sets, set_drafts
from kessa_core.judging.editions import compare
from kessa_core.judging.limit_sets import load_limits
from kessa_core.judging.limits import FOUND_FOR_A_SAMPLE
from kessa_core.judging.schema import schema
from kessa_core.judging.schema import text as schema_text

DOCS = Path(__file__).parents[2] / "docs"
LOW, HIGH = limit_set("boiler-demo-low"), limit_set("boiler-demo-high")


class Editions(unittest.TestCase):
    def test_an_edition_differs_in_nothing_from_itself(self) -> None:
        for held in limit_sets().values():
            self.assertEqual(compare(held, held), ())

    def test_every_field_that_differs(self) -> None:
        """A number, a document, a list; each with what stood before."""
        draft = set_drafts.copy_of(LOW, LOW.title)
        said = set_drafts.limit_in(draft, "chloride") | {
            "max": "150", "document": "Sheet 3 (2026)", "months": [6, 7],
        }  # fmt: skip
        newer = set_drafts.set_of(set_drafts.put_limit(draft, said), "own")
        (change,) = compare(LOW, newer)
        self.assertEqual(change.kind, "changed")
        told = {one.name: (one.before, one.after) for one in change.fields}
        self.assertEqual(told["at most"], ("200", "150"))
        self.assertEqual(told["document"][1], "Sheet 3 (2026)")
        self.assertEqual(told["months"], ("", "6, 7"))
        self.assertEqual(len(told), 3)

    def test_added_and_removed(self) -> None:
        draft = set_drafts.without_limit(set_drafts.copy_of(LOW, LOW.title), "chloride")
        added = set_drafts.new_limit(draft, "silica") | {"max": "100"}
        newer = set_drafts.set_of(set_drafts.put_limit(draft, added), "own")
        self.assertEqual(
            [(one.kind, one.limit.id) for one in compare(LOW, newer)],
            [("added", "silica"), ("removed", "chloride")],
        )
        self.assertEqual(
            sorted((one.kind, one.limit.id) for one in compare(newer, LOW)),
            [("added", "chloride"), ("removed", "silica")],
        )


class Drafts(unittest.TestCase):
    def test_a_copy_says_the_same(self) -> None:
        """Every shipped set, through a draft and its text, limit by limit."""
        for key, held in limit_sets().items():
            draft = set_drafts.copy_of(held, held.title)
            with self.subTest(key):
                self.assertEqual(set_drafts.set_of(draft, key).limits, held.limits)

    def test_what_is_missing_is_named(self) -> None:
        """A set without a limit; one without a figure; a legal limit without a document."""
        draft = set_drafts.blank("Ours")
        self.assertTrue(set_drafts.problems(draft))
        begun = set_drafts.new_limit(draft, "nitrate")
        with self.assertRaisesRegex(ValidationError, "needs min, max or a formula"):
            set_drafts.put_limit(draft, begun)
        legal = begun | {"max": "50", "tier": "legal limit"}
        with self.assertRaisesRegex(ValidationError, "a legal limit needs its document"):
            set_drafts.put_limit(draft, legal)
        made = set_drafts.put_limit(draft, legal | {"document": "Our ordinance (2026)"})
        self.assertEqual(set_drafts.problems(made), ())

    def test_a_limit_takes_the_place_of_the_one_with_its_id(self) -> None:
        draft = set_drafts.blank("Ours")
        for figure in ("50", "40"):
            said = set_drafts.new_limit(set_drafts.blank(""), "nitrate") | {"max": figure}
            draft = set_drafts.put_limit(draft, said)
        self.assertEqual([one["max"] for one in draft["limits"]], ["40"])
        second = set_drafts.new_limit(draft, "nitrate") | {"max": "10"}
        draft = set_drafts.put_limit(draft, second)
        self.assertEqual([one["id"] for one in draft["limits"]], ["nitrate", "nitrate-2"])
        with self.assertRaises(UnknownName):
            set_drafts.limit_in(draft, "nitrite")

    def test_the_most_limits(self) -> None:
        limits = [{"id": f"n{number}"} for number in range(set_drafts.MOST_LIMITS)]
        draft = set_drafts.blank("Ours") | {"limits": limits}
        with self.assertRaises(InvalidDocument):
            set_drafts.put_limit(draft, set_drafts.new_limit(draft, "ph") | {"max": "9"})

    def test_units_and_formulas_that_fit(self) -> None:
        """Its own unit first; only what converts; formulas only of ammonia and copper."""
        self.assertEqual(set_drafts.units_for("chloride", "Cl")[0], "mg/L")
        self.assertIn("mmol/L", set_drafts.units_for("chloride", "Cl"))
        self.assertNotIn("NTU", set_drafts.units_for("chloride", "Cl"))
        self.assertIn("°dH", set_drafts.units_for("hardness", "CaCO3"))
        for parameter, number in (("ammonia", 2), ("copper", 4), ("nitrate", 0)):
            self.assertEqual(len(set_drafts.formulas_for(parameter)), number, parameter)

    def test_what_a_formula_finds_is_not_written(self) -> None:
        """A document that says it was computed already is refused."""
        held = set_drafts.copy_of(limit_set("epa-freshwater"), "Ours")
        one = set_drafts.limit_in(held, "ammonia-acute") | {"computed": "pH 7", "max": "17"}
        with self.assertRaisesRegex(InvalidDocument, "are not written"):
            set_drafts.set_of(set_drafts.put_limit(held, one), "ours")


class Published(unittest.TestCase):
    def test_the_schema_is_the_models(self) -> None:
        """docs/limits.schema.json is what ./kessa limits schema prints."""
        self.assertEqual((DOCS / "limits.schema.json").read_text("utf-8"), schema_text())
        known = schema()["$defs"]["Limit"]["properties"]
        self.assertFalse(set(known) & set(FOUND_FOR_A_SAMPLE))
        self.assertIn("formula", known)


class CommandLine(unittest.TestCase):
    def run_with(self, *arguments: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main(["limits", *arguments])
        return status, out.getvalue(), err.getvalue()

    def test_each_command(self) -> None:
        """List, show, check what was shown, compare; a mistake names its line."""
        self.assertIn("ccme-freshwater", self.run_with("list")[1])
        _, shown, _ = self.run_with("show", "boiler-demo-low")
        self.assertEqual(load_limits(shown), LOW)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "own.yaml"
            path.write_text(shown.replace("'200'", "'150'", 1), "utf-8")
            self.assertEqual(self.run_with("check", str(path))[0], 0)
            _, told, _ = self.run_with("compare", "boiler-demo-low", str(path))
            self.assertIn("chloride: at most: 200 -> 150", told)
            path.write_text(shown.replace("treatment target", "wish", 1), "utf-8")
            status, _, error = self.run_with("check", str(path))
            self.assertEqual(status, 2)
            self.assertRegex(error, r"line \d+, limits\[0\]\.tier")
        self.assertEqual(self.run_with("show", "nowhere")[0], 2)
