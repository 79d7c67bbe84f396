"""Writing a method: its start, its fields, two people's changes, pasted tables, its trial."""

import unittest
from typing import Any, get_args

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import BaseModel

from kessa_core.drafts import edits, fields, pasting, problems, starts, trial
from kessa_core.drafts.edits import NoSuchPlace, path_of
from kessa_core.drafts.pasting import BadPaste
from kessa_core.errors import UnknownName
from kessa_core.methods import Method, load, shipped, shipped_ids
from kessa_core.methods.stage import Stage
from kessa_core.methods.steps import Wait
from kessa_core.readings.registry import READERS

SULPHITE = {
    "kit": "Grey case",
    "stages.0.title": "Sulphite",
    "stages.0.measures": {"parameter": "sulphite", "form": "total", "basis": "SO3",
                          "unit": "mg/L", "decimals": 0},
    "stages.0.reading.portion_ml": 25,
    "stages.0.reading.factor": "5",
    "waste": [{"what": "the sample", "route": "drain", "say": "Down a drain."}],
}  # fmt: skip


def sulphite() -> dict[str, Any]:
    """A draft that lacks nothing."""
    draft = starts.begin("drops", "Sulphite, grey case")
    for name, value in SULPHITE.items():
        edits.put(draft, path_of(name), value)
    return draft


class Starts(unittest.TestCase):
    def test_whatever_can_be_held(self) -> None:
        """Every reading type can be begun with, and asks for what only a leaflet knows."""
        self.assertEqual({one.by for one in starts.starts().values()}, set(READERS))
        for key in starts.starts():
            missing = [one.path for one in problems.problems_of(starts.begin(key, "Mine"))]
            with self.subTest(held=key):
                self.assertIn("kit", missing)
                self.assertIn("stages.0.measures", missing)
                self.assertEqual(starts.start_of(starts.begin(key, "Mine")), key)

    def test_another_thing_in_the_hand(self) -> None:
        """What is measured stays; reading, steps and sources are new; the old reagent stays."""
        draft = starts.hold_something_else(sulphite(), 0, "tube")
        self.assertEqual(draft["stages"][0]["measures"]["parameter"], "sulphite")
        self.assertEqual(draft["stages"][0]["reading"]["by"], "comparator")
        self.assertEqual([one["name"] for one in draft["reagents"]], ["titrant", "reagent"])
        with self.assertRaisesRegex(UnknownName, "There is no 'spoon'"):
            starts.hold_something_else(draft, 0, "spoon")

    def test_decimals_follow_what_is_shown(self) -> None:
        """A display's, a factor's or a table's, never fewer than stand there already."""
        for key, reading, expected in (
            ("photometer", {"decimals": 3}, 3), ("drops", {"factor": "0.05"}, 2),
            ("ampoule", {"shades": [{"value": "0.5"}, {"value": "12"}]}, 1),
            ("depth", {"rows": [{"read": "1.25", "value": "40"}]}, 0), ("eyes", {}, 0),
        ):  # fmt: skip
            was = starts.begin(key, "Mine")
            now = starts.begin(key, "Mine")
            now["stages"][0]["reading"] |= reading
            now["stages"][0]["measures"] = {"parameter": "ozone"}
            self.assertTrue(starts.follow_parameters(was, now))
            with self.subTest(held=key):
                self.assertEqual(now["stages"][0]["measures"]["decimals"], expected)
        now["stages"][0]["measures"]["decimals"] = 4
        starts.follow_decimals(now, 0)
        self.assertEqual(now["stages"][0]["measures"]["decimals"], 4)

    def test_a_copy_says_the_same(self) -> None:
        """Every shipped method under a name of its own: nothing is missing, the stages are its."""
        for key in shipped_ids():
            made = starts.from_method(shipped(key), "My copy")
            with self.subTest(method=key):
                self.assertEqual(problems.method_of(made).stages, shipped(key).stages)
                self.assertEqual(made["id"], "own-my-copy")

    def test_what_follows_from_a_parameter(self) -> None:
        """Its first form and basis and its unit; nothing follows where it stays."""
        was, now = sulphite(), sulphite()
        now["stages"][0]["measures"] = {"parameter": "ph", "basis": "SO3", "unit": "mg/L"}
        self.assertTrue(starts.follow_parameters(was, now))
        self.assertEqual(
            now["stages"][0]["measures"],
            {"parameter": "ph", "form": "total", "unit": "pH", "decimals": 0},
        )
        self.assertFalse(starts.follow_parameters(was, sulphite()))

    def test_ids_from_titles(self) -> None:
        """Lower case and hyphens, never longer than a key may be."""
        for title, key in (("Sulphite, grey", "own-sulphite-grey"), ("", "own-method"),
                           ("Ä" * 70, "own-method"), ("a" * 90, "own-" + "a" * 56)):  # fmt: skip
            self.assertEqual(starts.id_from(title), key)


class Fields(unittest.TestCase):
    def test_the_form_says_all_that_the_format_says(self) -> None:
        """Typing what stands in every field of a copy gives the same document."""
        for key in shipped_ids():
            was = starts.from_method(shipped(key), "My copy")
            made = starts.from_method(shipped(key), "My copy")
            for one in leaves(fields.fields(Method, was, skip=("changes", "stages"))):
                edits.put(made, path_of(one.name), typed_again(one))
            for at in range(len(was["stages"])):
                model = fields.reading_model(was, at)
                for one in leaves(fields.fields(model, was, ("stages", at, "reading"))):
                    edits.put(made, path_of(one.name), typed_again(one))
                rest = fields.fields(Stage, was, ("stages", at), skip=("reading", "measures"))
                for one in leaves(rest):
                    edits.put(made, path_of(one.name), typed_again(one))
            with self.subTest(method=key):
                self.assertEqual(problems.method_of(made).hash, problems.method_of(was).hash)

    def test_kinds(self) -> None:
        """A number, a choice, a list, a group, as the model has them."""
        found = {one.key: one.kind for one in fields.fields(Wait, {})}
        self.assertEqual(
            {key: found[key] for key in ("rule", "seconds", "dark", "table", "temperature_c")},
            {"rule": "choice", "seconds": "whole", "dark": "yes", "table": "items",
             "temperature_c": "group"},
        )  # fmt: skip
        rules = fields.one(Wait, "rule", {}).options
        self.assertEqual(
            {key for key, _ in rules}, set(get_args(Wait.model_fields["rule"].annotation))
        )

    def test_what_was_typed(self) -> None:
        """Numbers with a comma; what is no number stays to be named; nothing typed is nothing."""
        seconds = fields.one(Wait, "seconds", {})
        for raw, value in (("60", 60), (" 90 ", 90), ("soon", "soon"), ("", None), ("1,5", 1.5)):
            self.assertEqual(fields.typed(seconds, [raw]), value)
        factor = fields.one(READERS["drop-count"].document, "factor", {})
        self.assertEqual(fields.typed(factor, ["8,30"]), "8.30")
        self.assertEqual(fields.typed(fields.one(Wait, "dark", {}), []), None)

    def test_a_value_of_another_shape_breaks_no_form(self) -> None:
        """Text may say anything; the form shows what fits."""
        for wrong in (5, "x", [], {"by": []}, None, [[1]]):
            for draft in ({"stages": wrong}, {"stages": [wrong]}, {"stages": [{"steps": wrong}]},
                          {"before": wrong}, {"waste": wrong}, {"sample": wrong}):  # fmt: skip
                self.assertTrue(fields.fields(Method, draft, skip=("stages",)))
                self.assertIn(starts.start_of(draft), ("", *starts.starts()))


def leaves(found: list[fields.Field]) -> list[fields.Field]:
    """Fields that are typed into."""
    flat = []
    for one in found:
        parts = [*one.parts, *(part for entry in one.entries for part in entry)]
        flat += leaves(parts) if parts else [one] if one.kind not in ("group", "items") else []
    return flat


def typed_again(one: fields.Field) -> Any:
    if one.kind == "colour":
        return one.value
    if one.kind == "yes":
        return fields.typed(one, ["yes"] if one.value else [])
    if one.kind == "several":
        return fields.typed(one, one.value or [])
    if one.kind == "lines":
        return fields.typed(one, [one.lines])
    return fields.typed(one, ["" if one.value is None else str(one.value)])


class ANewcomer(unittest.TestCase):
    """What a first reader of the screen stumbled over."""

    def test_an_amount_that_is_taken_off(self) -> None:
        """Choosing it asks for the field at once; what is missing is said in the form’s words."""
        was = starts.begin("tablets", "Sulphide")
        now = starts.begin("tablets", "Sulphide")
        self.assertFalse(starts.asks_another_field(was, now))
        now["stages"][0]["reading"]["offset"] = "given"
        self.assertTrue(starts.asks_another_field(was, now))
        now["stages"][0]["reading"] |= {"portion_ml": 50, "per_tablet": "3"}
        now["stages"][0]["title"] = "Sulphide"
        starts.follow_parameters(now, now)
        said = {one.path: one.sentence for one in problems.problems_of(now)}
        self.assertEqual(
            said["stages.0.reading.minus"], "The amount that the formula takes off is missing."
        )
        self.assertEqual(said["waste"], "Say where the waste goes.")

    def test_the_result_is_named_after_its_parameter(self) -> None:
        """Where it has no name; one that was typed stays."""
        for title, named in (("", "Sulphide"), ("Rotten eggs", "Rotten eggs")):
            was = starts.begin("tablets", "Mine")
            now = starts.begin("tablets", "Mine")
            now["stages"][0]["title"] = title
            now["stages"][0]["measures"] = {"parameter": "sulphide"}
            starts.follow_parameters(was, now)
            self.assertEqual(now["stages"][0]["title"], named)

    def test_options_are_said_for_what_they_are_of(self) -> None:
        """Half a tablet, not half-way between shades."""
        self.assertEqual(fields.option_label("half", "offset"), "half a tablet")
        self.assertEqual(fields.option_label("half"), "half-way between them")


class TwoPeople(unittest.TestCase):
    def test_different_fields_both_stand(self) -> None:
        """One changed the kit, the other the portion."""
        was = sulphite()
        now = sulphite() | {"kit": "Blue case"}
        made, conflicts = edits.merged(
            now, {"stages.0.reading.portion_ml": 25}, {"stages.0.reading.portion_ml": 50}
        )
        self.assertEqual((made["kit"], conflicts), ("Blue case", ()))
        self.assertEqual(made["stages"][0]["reading"]["portion_ml"], 50)
        self.assertEqual(was["stages"][0]["reading"]["portion_ml"], 25)

    def test_the_same_field_is_a_conflict(self) -> None:
        """The first change stands, the second is shown with it; alike is no conflict."""
        now = sulphite() | {"kit": "Blue case"}
        made, (conflict,) = edits.merged(now, {"kit": "Grey case"}, {"kit": "Red case"})
        self.assertEqual((made["kit"], conflict.now, conflict.mine),
                         ("Blue case", "Blue case", "Red case"))  # fmt: skip
        self.assertEqual(edits.merged(now, {"kit": "Grey case"}, {"kit": "Blue case"})[1], ())

    def test_typed_into_what_is_gone(self) -> None:
        """A step that somebody removed says so."""
        now = sulphite()
        edits.remove(now, path_of("stages.0.steps.1"))
        with self.assertRaisesRegex(NoSuchPlace, "no longer there"):
            edits.merged(now, {}, {"stages.0.steps.1.title": "Count"})

    @settings(max_examples=60)
    @given(st.lists(st.tuples(st.sampled_from(("kit", "short", "title")), st.text(max_size=5)),
                    max_size=6))  # fmt: skip
    def test_nothing_of_either_is_lost(self, typed: list[tuple[str, str]]) -> None:
        """Every field holds what one of both typed; what it does not hold is in a conflict."""
        was = sulphite()
        first, second = dict(typed[::2]), dict(typed[1::2])
        base = {name: was.get(name) for name in (*first, *second)}
        now, _ = edits.merged(was, base, first)
        made, conflicts = edits.merged(now, base, second)
        told = {one.path: one.mine for one in conflicts}
        for name, value in second.items():
            stands = edits.same(made.get(name), value)
            self.assertTrue(stands or name in told or edits.same(value, base[name]))

    def test_moves(self) -> None:
        """Up and down as far as the list goes; a place that is none is named."""
        draft: dict[str, Any] = {"waste": [1, 2, 3]}
        edits.move(draft, ("waste", 2), -1)
        edits.move(draft, ("waste", 0), -1)
        self.assertEqual(draft["waste"], [1, 3, 2])
        for wrong in (("waste", 5), ("waste",), ("gone", 0)):
            with self.assertRaises(NoSuchPlace):
                edits.move(draft, wrong, 1)
        with self.assertRaises(NoSuchPlace):
            edits.remove(draft, ("waste", 9))


class Pasting(unittest.TestCase):
    def test_shades_as_leaflets_print_them(self) -> None:
        """A line each, with names and colours where they stand; or one line of values."""
        for text, expected in (
            ("0 white\n0.5 pale\n1,0\tpink", [("0", "white"), ("0.5", "pale"), ("1.0", "pink")]),
            ("0  0.5  1  2  5", [(v, "") for v in ("0", "0.5", "1", "2", "5")]),
            ("0.2 mg/L = faint; #F3E1E5\n\n0.4: pale", [("0.2", "faint"), ("0.4", "pale")]),
        ):  # fmt: skip
            self.assertEqual([(s.value, s.name) for s in pasting.shades(text)], expected)
        self.assertEqual(pasting.shades("0.2 faint #F3E1E5\n1 pink")[0].hex, "#F3E1E5")

    def test_rows(self) -> None:
        """Two figures a line, whatever stands between them."""
        self.assertEqual(pasting.rows("3.0 260\n4,0\t188\n5;142"),
                         [("3.0", "260"), ("4.0", "188"), ("5", "142")])  # fmt: skip
        for wrong in ("3.0", "a b", "1 2 3", "", "\n"):
            with self.subTest(wrong=wrong), self.assertRaises(BadPaste):
                pasting.rows(wrong)
        with self.assertRaisesRegex(BadPaste, "Line 2 has no number"):
            pasting.shades("0 white\npink")
        with self.assertRaisesRegex(BadPaste, "At most 80"):
            pasting.rows("\n".join(f"{n} {n}" for n in range(1, 82)))


class Missing(unittest.TestCase):
    def test_nothing_is_missing(self) -> None:
        """A whole draft makes a method; its text is the document, and comes back the same."""
        draft = sulphite()
        self.assertEqual(problems.problems_of(draft), ())
        text = problems.text_of(problems.finished(draft, "First issue.", "2026-11-28"))
        self.assertEqual(load(text).hash, load(problems.text_of(problems.plain(text))).hash)

    def test_named_with_its_field(self) -> None:
        """Each in one sentence, with the id of the field that mends it."""
        draft = sulphite()
        edits.put(draft, path_of("stages.0.reading.factor"), None)
        edits.put(draft, path_of("stages.0.steps.0.title"), None)
        edits.put(draft, path_of("waste"), [])
        said = {one.sentence: one.anchor for one in problems.problems_of(draft)}
        self.assertEqual(said["One drop stands for is missing."], "f-stages-0-reading-factor")
        self.assertEqual(said["Step 1: What to do is missing."], "f-stages-0-steps-0-title")
        self.assertEqual(said["Say where the waste goes."], "f-waste")

    def test_what_follows_from_two_fields(self) -> None:
        """The strength that the leaflet says is held against its factor."""
        draft = sulphite()
        draft["stages"][0]["reading"] |= {
            "normality_eq_l": 0.0625, "drop_ml": 0.05, "equivalent_weight_mg_meq": 40.03,
        }  # fmt: skip
        self.assertEqual(problems.problems_of(draft), ())
        draft["stages"][0]["reading"]["factor"] = "6"
        self.assertIn("they give 5.00 mg/L a drop", problems.problems_of(draft)[0].sentence)

    def test_what_no_record_can_hold(self) -> None:
        """Half characters, numbers that are none."""
        found = problems.plain('title: a\nn: .nan\nk: "\\0"')
        self.assertEqual(found, {"title": "a", "n": "nan", "k": "\ufffd"})
        self.assertEqual(problems.storable("a\ud83d"), "a?")
        self.assertIsNone(problems.plain("- a list"))


class Trials(unittest.TestCase):
    def test_shipped_methods_pass_their_trial(self) -> None:
        """Ranges hold, and a whole simulated run comes to its end. Every fourth one; all of them
        are in docs/science/coverage.md."""
        for key in shipped_ids()[::4]:
            found = trial.try_out(shipped(key))
            with self.subTest(method=key):
                self.assertTrue(found.ended)
                self.assertTrue(found.fits, [(s.held, s.tried) for s in found.stages])

    def test_says_what_makes_it_wide(self) -> None:
        """Five times the eye's scatter: it leads."""
        draft = sulphite()
        for one in draft["stages"][0]["influences"]:
            if one["of"] == "eye":
                one["sd"] = 1.5
        found = trial.try_out(problems.method_of(draft)).stages[0]
        self.assertEqual(found.widest, "where the eye sees it")
        self.assertIn("of 100 ranges held the true value", found.sentence)


class Model(BaseModel):
    """A model that no document has."""

    name: str = ""
    odd: dict[str, int] = {}


class Unknown(unittest.TestCase):
    def test_a_field_without_a_label_is_called_by_its_key(self) -> None:
        """Nothing is left out of the form for want of a word."""
        self.assertEqual(fields.one(Model, "name", {}).label, "Name")
