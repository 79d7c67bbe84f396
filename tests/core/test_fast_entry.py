"""What is typed in from paper: cells, columns, tables, and what comes of them."""

from datetime import UTC, date, datetime, time
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from kessa_core.fast_entry import acts_of_row, columns_of, preview, read_cell, read_pasted
from kessa_core.fast_entry.cells import Cell
from kessa_core.fast_entry.pasting import DAY, NOTHING, POINT, TIME, BadTable, day_of, time_of
from kessa_core.methods import shipped
from kessa_core.methods.catalogue import shipped_ids
from kessa_core.runs import RunState, fold
from kessa_core.runs.entering import ENTERED
from tests.builders.runs import Taps, big, outcome_of

CELL = read_cell(big(), "chloride", "b1; 7; 8")
AT = datetime(2026, 11, 28, 19, 0, tzinfo=UTC)
CHLORIDE = "chloride-drops-15ml"


def entered(method_id: str, *texts: str) -> tuple[RunState, list[str]]:
    """The state of a test typed in (a text a stage), and the figures of its stages."""
    method = shipped(method_id)
    cells = {
        stage.id: read_cell(method, stage.id, text)
        for stage, text in zip(method.stages, texts, strict=False)
    }
    for cell in cells.values():
        assert not cell.wrong, cell.wrong
    state, outcomes = preview(method, acts_of_row(method, cells), AT)
    return state, [one.value.text if one.value else one.finish for one in outcomes]


class ValuesTest(TestCase):
    def test_as_at_the_bench(self) -> None:
        """The same counts give the same value and interval; only what is said of it differs."""
        bench = Taps(big()).before().count(1, "blank").count(7).count(8)
        at_the_bench = outcome_of(big(), fold(big(), bench.events)).value
        state, [text] = entered(CHLORIDE, "b1; 7; 8")
        assert at_the_bench is not None
        self.assertEqual(text, at_the_bench.text)
        _, [outcome] = preview(big(), acts_of_row(big(), {"chloride": CELL}), AT)
        self.assertEqual(outcome.value, at_the_bench)
        self.assertIn(ENTERED, state.flags)

    def test_cells(self) -> None:
        cases = (
            (CHLORIDE, ["7 8"], "58 mg/L as Cl"),
            (CHLORIDE, ["7;8"], "58 mg/L as Cl"),
            (CHLORIDE, ["b1 7- 8?"], None),
            (CHLORIDE, ["7 12 8"], "58 mg/L as Cl"),
            (CHLORIDE, ["7 12"], "not-repeatable"),
            (CHLORIDE, ["x out of reagent"], "not-tested"),
            (CHLORIDE, ["n/a"], "not-applicable"),
            ("thermometer", ["5.4"], None),
            ("conductivity-meter", ["212 µS/cm"], "212 µS/cm"),
            ("conductivity-meter", ["1.4 mS/cm"], "1400 µS/cm"),
            ("nitrate-comparator", ["2.0"], "2.0 mg/L as N"),
            ("nitrate-comparator", ["2-3"], "2.5 mg/L as N"),
            ("nitrate-comparator", ["2.4"], "2.5 mg/L as N"),
            ("ph-tablets", ["between 7 and 8"], "7.5 pH"),
            ("ph-tablets", ["7.2"], "7.5 pH"),
            ("hardness-burette", ["0.00/12.12; 0.00/12.10"], None),
        )
        for method_id, texts, said in cases:
            with self.subTest(method=method_id, texts=texts):
                state, found = entered(method_id, *texts)
                self.assertNotEqual(state.finish, "", state.place)
                if said:
                    self.assertEqual(found[0], said)

    def test_one_measurement_where_two_are_asked(self) -> None:
        """Stands, and says so; nothing is forced."""
        state, [text] = entered(CHLORIDE, "7")
        self.assertEqual(text, "54 mg/L as Cl")
        self.assertIn("Only one measurement on the paper; the method asks for two",
                      state.stages[0].flags)  # fmt: skip

    def test_two_colours_of_one_flask(self) -> None:
        """Both have values, with two measurements of each or with one; one of the first colour
        has its value without the second."""
        for texts, tested in ((("4; 4", "9; 9"), 2), (("4", "9"), 2), (("4", ""), 1)):
            with self.subTest(texts=texts):
                state, found = entered("alkalinity-drops", *texts)
                self.assertEqual(state.finish, "done")
                self.assertEqual(state.ignored, [])
                self.assertEqual(sum("mg/L" in text for text in found[:2]), tested, found)

    def test_a_blank_that_failed(self) -> None:
        """Is kept, and travels with the result."""
        state, [text] = entered(CHLORIDE, "b5 7 8")
        self.assertEqual(text, "58 mg/L as Cl")
        self.assertTrue(any("blank did not pass" in flag for flag in state.flags))

    def test_no_step_and_no_clock_is_claimed(self) -> None:
        """Of every shipped method: what is entered has no wait and no tick."""
        for key in shipped_ids():
            method = shipped(key)
            with self.subTest(method=key):
                state, _ = preview(method, [("stop", {"cause": "no time"})], AT)
                self.assertEqual(state.finish, "not-tested")
                self.assertTrue(all(not d.waits for d in state.determinations))

    def test_only_the_second_part(self) -> None:
        """What is not on the paper is not tested, and the part has its value."""
        state, found = entered("hardness-burette", "", "0.00/12.12; 0.00/12.10")
        self.assertEqual(found[0], "not-tested")
        self.assertEqual(state.stages[0].cause, "not on the paper")
        self.assertIn("mg/L", found[1])

    def test_what_cannot_be_read(self) -> None:
        cases = (
            (CHLORIDE, "seven", "is no count of drops"),
            (CHLORIDE, "999", "cannot be"),
            ("conductivity-meter", "many", "is not a number"),
            ("nitrate-comparator", "7.77", "is no position of this scale"),
            ("hardness-burette", "12.12", "One measurement has 2 readings"),
            ("hardness-burette", "12.12/0.00", None),
        )
        for method_id, text, said in cases:
            method = shipped(method_id)
            cell = read_cell(method, method.stages[0].id, text)
            with self.subTest(text=text):
                if said:
                    self.assertIn(said, cell.wrong)
                else:
                    state, _ = preview(method, cell.acts, AT)
                    self.assertTrue(state.ignored)

    @given(st.sampled_from(shipped_ids()), st.text(max_size=20))
    def test_whatever_is_typed_is_read_or_refused(self, key: str, text: str) -> None:
        """And what was read folds to an end, or says what has no place."""
        method = shipped(key)
        for stage in method.stages:
            cell = read_cell(method, stage.id, text)
            if not cell.wrong and cell.acts:
                state, _ = preview(method, cell.acts, AT)
                self.assertTrue(state.determinations or state.finish or state.ignored)

    def test_an_empty_cell(self) -> None:
        method = shipped(CHLORIDE)
        self.assertEqual(read_cell(method, method.stages[0].id, "  "), Cell())


class PastingTest(TestCase):
    COLUMNS = [column for key in (CHLORIDE, "ph-tablets", "nitrate-comparator", "thermometer")
               for column in columns_of(shipped(key))]  # fmt: skip

    def test_recognised(self) -> None:
        """By headings as people write them, with tabs, semicolons or commas."""
        heads = ["Date", "Time", "Site", "Chloride (drops)", "pH", "Nitrate mg/L N", "Temp", "By"]
        row = ["28.11.2026", "9:40", "at the ford", "7 8", "7.5", "2.0", "5.4", "Tam"]
        for between in ("\t", ";", ","):
            text = f"{between.join(heads)}\n{between.join(row)}\n"
            pasted = read_pasted(text, self.COLUMNS)
            guessed = [one.is_ for one in pasted.guesses]
            with self.subTest(between=between):
                self.assertEqual(guessed[:3], [DAY, TIME, POINT])
                self.assertEqual(guessed[3], f"{CHLORIDE}.chloride")
                self.assertEqual(guessed[4].split(".")[0], "ph-tablets")
                self.assertEqual(guessed[5].split(".")[0], "nitrate-comparator")
                self.assertEqual(guessed[7], NOTHING)
                self.assertEqual(pasted.rows, (tuple(row),))

    def test_by_what_stands_in_it(self) -> None:
        pasted = read_pasted("a\tb\n2026-11-28\t9:40\n2026-11-29\t10:05", self.COLUMNS)
        self.assertEqual([one.is_ for one in pasted.guesses], [DAY, TIME])
        self.assertFalse(any(one.sure for one in pasted.guesses))

    def test_no_column_is_taken_twice(self) -> None:
        pasted = read_pasted("chloride\tchloride\n7\t8", self.COLUMNS)
        self.assertEqual([one.is_ for one in pasted.guesses], [f"{CHLORIDE}.chloride", NOTHING])

    def test_short_lines_are_filled(self) -> None:
        pasted = read_pasted("Date\tpH\n2026-11-28\n\n2026-11-29\t7", self.COLUMNS)
        self.assertEqual(pasted.rows, (("2026-11-28", ""), ("2026-11-29", "7")))

    def test_no_table(self) -> None:
        for wrong in ("", "Date", "\n\n", "x" * 200_001, "a\n" * 300):
            with self.subTest(wrong=wrong[:10]), self.assertRaises(BadTable):
                read_pasted(wrong, self.COLUMNS)

    def test_days_and_times(self) -> None:
        days = {"2026-11-28": date(2026, 11, 28), "28.11.2026": date(2026, 11, 28),
                "28/11/26": date(2026, 11, 28), "31.2.2026": None, "soon": None,
                "29.2.2028": date(2028, 2, 29)}  # fmt: skip
        for text, day in days.items():
            self.assertEqual(day_of(text), day, text)
        times = {"9:40": time(9, 40), "09.40": time(9, 40), "2:15 pm": time(14, 15),
                 "12:05 am": time(0, 5), "24:00": None, "9:60": None, "noon": None}  # fmt: skip
        for text, moment in times.items():
            self.assertEqual(time_of(text), moment, text)
