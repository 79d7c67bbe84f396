"""A programme's own options: offered, written into a document of its own, computed with."""

import io
import json
import tempfile
from contextlib import redirect_stdout
from pathlib import Path
from typing import get_args

from django.test import SimpleTestCase

from kessa_core.cli.run import main
from kessa_core.errors import BadEvent
from kessa_core.methods import Method, load, shipped, shipped_ids
from kessa_core.methods.load import InvalidDocument
from kessa_core.methods.local_settings import BadChoice, questions, said, with_local_settings
from kessa_core.methods.parts import ROUTES, Exclusion, Waste
from kessa_core.methods.suitability import TRAITS
from kessa_core.runs import fold
from kessa_core.runs.export import write
from tests.builders.runs import Taps, outcome_of, walk

BY = ("Lowen Vale Water Room", 1, "2026-11-25", "Agreed in the team.")


def with_options(kit: Method, **wanted: str) -> Method:
    stage = kit.stages[0].id
    return load(with_local_settings(kit, {(stage, matter): s for matter, s in wanted.items()}, *BY))


class Options(SimpleTestCase):
    def test_every_option_offered_makes_a_document(self) -> None:
        """Every second shipped method, each matter and option: it loads and says the option."""
        tried = 0
        for key in shipped_ids()[::2]:
            kit = shipped(key)
            for asked in questions(kit):
                for option, _ in asked.options:
                    wanted = {(asked.stage, asked.matter): option}
                    made = load(with_local_settings(kit, wanted, *BY))
                    current = {(q.stage, q.matter): q.current for q in questions(made)}
                    self.assertEqual(current[asked.stage, asked.matter], option, (key, asked))
                    kept = [(c.option, c.kit) for c in made.local_settings.choices]
                    self.assertEqual(kept, [(option, asked.current)] * (option != asked.current))
                    tried += 1
        self.assertGreater(tried, 150)

    def test_what_the_kit_says_is_no_choice(self) -> None:
        """All as it stands: a document without choices, equal but for the note of it."""
        kit = shipped("nitrate-comparator")
        same = {(q.stage, q.matter): q.current for q in questions(kit)}
        made = load(with_local_settings(kit, same, *BY))
        self.assertEqual(made.local_settings.choices, ())
        self.assertEqual(made.stages, kit.stages)
        self.assertNotEqual(made.hash, kit.hash)
        self.assertEqual((kit.number, made.number), ("2", "2.1"))

    def test_a_school_that_does_not_exist(self) -> None:
        """Named with its stage and matter."""
        kit = shipped("nitrate-comparator")
        for matter, option in (
            ("reading", "guess"), ("blank", "twice"), ("agreement", "steps many"),
            ("agreement", "percent 0"), ("bases", "NO3,Cl"), ("determinations", "5"),
        ):  # fmt: skip
            if matter == "blank":
                kit = shipped("chloride-drops-15ml")
            with self.subTest(matter), self.assertRaises(BadChoice) as caught:
                with_options(kit, **{matter: option})
            self.assertEqual(caught.exception.at, (kit.stages[0].id, matter))

    def test_an_agreement_however_it_is_typed(self) -> None:
        """One way of saying it in the document; equal to the kit's, it is no choice."""
        kit = shipped("nitrate-comparator")
        for typed, stands in (("percent 5.0", "percent 5"), ("steps 02", "steps 2"),
                              ("percent 33.3333333", "percent 33.3333")):  # fmt: skip
            made = with_options(kit, agreement=typed)
            self.assertEqual([c.option for c in made.local_settings.choices], [stands])
        self.assertEqual(with_options(kit, agreement="steps 01").local_settings.choices, ())

    def test_a_document_whose_choices_are_not_its_own(self) -> None:
        """A stage that is not there, a matter it does not have, an option it does not follow."""
        wanted = {("nitrate", "reading"): "lower"}
        text = with_local_settings(shipped("nitrate-comparator"), wanted, *BY)
        for old, new in (
            ("- stage: nitrate\n", "- stage: nowhere\n"),
            ("matter: reading", "matter: blank"),
            ("option: lower", "option: nearest"),
        ):
            self.assertIn(old, text)
            with (
                self.subTest(new),
                self.assertRaisesRegex(InvalidDocument, "local_settings: stage"),
            ):
                load(text.replace(old, new))

    def test_every_route_and_trait_has_its_words(self) -> None:
        """What a document can name, a programme can speak of."""
        self.assertEqual(set(ROUTES), set(get_args(Waste.model_fields["route"].annotation)))
        named = set(get_args(Exclusion.model_fields["water"].annotation))
        self.assertLessEqual(named, set(TRAITS))

    def test_words(self) -> None:
        """What stands, as people say it."""
        found = {q.matter: q.words for q in questions(shipped("nitrate-comparator"))}
        self.assertEqual(found["reading"], "half-way between them")
        self.assertEqual(found["agreement"], "1 step")
        self.assertEqual(found["bases"], "as NO₃")
        asked = next(q for q in questions(shipped("nitrate-comparator")) if q.matter == "bases")
        self.assertEqual(said(asked, ""), "no other")


class Computing(SimpleTestCase):
    def taps(self, method: Method, *readings: str) -> Taps:
        taps = Taps(method).before()
        for reading in readings:
            taps.read(taps.stage.reader().scale("reading").raw(reading))
        return taps

    def test_one_reading_by_every_rule(self) -> None:
        """Seen between 2.0 and 3.0, as five options report it."""
        kit = shipped("nitrate-comparator")
        for option, reading, figure in (
            ("half", "between 2.0 and 3.0", "2.5"),
            ("nearest", "2.0", "2.0"),
            ("estimate", "2.40", "2.4"),
            ("lower", "between 2.0 and 3.0", "2.0"),
            ("bracket", "between 2.0 and 3.0", "2.0–3.0"),
        ):
            method = with_options(kit, reading=option)
            taps = self.taps(method, reading)
            value = outcome_of(method, fold(method, taps.events)).value
            with self.subTest(option):
                self.assertEqual(value.figure, figure)
                self.assertTrue(value.interval.low < 2.5 < value.interval.high)

    def test_a_blank_that_is_taken_off(self) -> None:
        """Two drops of blank, seven and seven of the sample: 54, or 42 where it is taken off."""
        for option, figure in (("pass", "54"), ("subtract", "42")):
            method = with_options(shipped("chloride-drops-15ml"), blank=option)
            events = walk([7, 7], blank=2, method=method).events
            value = outcome_of(method, fold(method, events)).value
            with self.subTest(option):
                self.assertEqual(value.figure, figure)

    def test_what_is_reported_of_three(self) -> None:
        """7, 10 and 7: the two closest, the first of them, or all three."""
        for option, drops in (("mean", 7.0), ("first", 7.0), ("all", 8.0)):
            method = with_options(shipped("chloride-drops-15ml"), report=option)
            outcome = outcome_of(method, fold(method, walk([7, 10, 7], method=method).events))
            with self.subTest(option):
                self.assertEqual(outcome.decision, "closest-two")
                self.assertAlmostEqual(outcome.value.number, (drops - 0.5) * 8.3, 6)

    def test_one_determination_is_enough(self) -> None:
        """A programme that takes one, and one that agrees within 20 %."""
        kit = shipped("chloride-drops-15ml")
        single = with_options(kit, determinations="1")
        self.assertEqual(fold(single, walk([7], method=single).events).finish, "done")
        loose = with_options(kit, agreement="percent 30")
        self.assertEqual(fold(loose, walk([7, 9], method=loose).events).finish, "done")
        self.assertEqual(fold(kit, walk([7, 9], method=kit).events).finish, "")

    def test_the_file_of_a_run_carries_the_choices(self) -> None:
        """`./kessa run` with the kit's id makes the same result of it."""
        method = with_options(shipped("nitrate-comparator"), reading="bracket")
        taps = self.taps(method, "between 2.0 and 3.0")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "run.jsonl"
            path.write_text(write(method, taps.events, {}), "utf-8")
            said_here = io.StringIO()
            with redirect_stdout(said_here):
                main(["nitrate-comparator", str(path), "--json"])
            broken = path.read_text("utf-8").replace('"choices": [', '"choices": [7, ', 1)
            path.write_text(broken, "utf-8")
            with self.assertRaisesRegex(BadEvent, "choices in the context line"):
                main(["nitrate-comparator", str(path), "--json"])
        told = json.loads(said_here.getvalue())
        self.assertTrue(told["method_matches"])
        self.assertEqual(told["result"]["figure"], "2.0–3.0")


class Changed(SimpleTestCase):
    def test_what_changed_since_an_older_document(self) -> None:
        """The kit's own entries, then what the programme chose; back to the kit's says so."""
        kit = shipped("chloride-drops-15ml")
        old = kit.model_copy(update={"version": 2})
        self.assertIn("middle of the last drop", kit.changed_since(old)[-1])
        self.assertEqual(kit.changed_since(kit), [])
        single = with_options(kit, determinations="1")
        said_here = "Determinations: one is enough (the kit: two that agree)"
        self.assertEqual(single.changed_since(kit), [said_here])
        self.assertEqual(kit.changed_since(single), [f"As the kit says again: {said_here}"])
