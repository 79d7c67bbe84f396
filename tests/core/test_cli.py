"""The command line: results on standard output, one plain line and status 2 for what is wrong."""

import contextlib
import io
import json
import tempfile
import unittest
from pathlib import Path

from kessa_core.calculations import calculations
from kessa_core.cli.__main__ import main
from kessa_core.judging import limit_set
from kessa_core.methods import shipped
from kessa_core.methods.catalogue import shipped_text
from kessa_core.runs.export import write
from tests.builders.runs import Taps, big, walk


def run(*arguments: str) -> tuple[int, str, str]:
    """Status, standard output, standard error."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        status = main(list(arguments))
    return status, out.getvalue(), err.getvalue()


class Files(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, name: str, text: str) -> str:
        path = self.folder / name
        path.write_text(text, "utf-8")
        return str(path)


class Calc(Files):
    def test_one_calculation_as_json(self) -> None:
        """One object on standard output and nothing else."""
        status, out, err = run("calc", "species-convert", "value=10", "from=N", "to=NO3", "--json")
        self.assertEqual((status, err), (0, ""))
        self.assertAlmostEqual(json.loads(out)["value"], 44.266, places=3)

    def test_value_and_unit_for_people(self) -> None:
        """The unit stands beside the number."""
        _, out, _ = run(
            "calc",
            "titration-factor",
            "normality_eq_l=0.02",
            "drop_ml=0.05",
            "sample_ml=5",
            "equivalent_weight_mg_meq=50.043",
        )
        self.assertEqual(out, "mg_l_per_drop = 10.0086 mg/L a drop\n")

    def test_wrong_input_is_one_line_and_status_two(self) -> None:
        """Nothing on standard output."""
        for arguments in (
            ("nothing",),
            ("species-convert", "value=1"),
            ("species-convert", "value"),
            ("species-convert", "value=[1", "from=N", "to=N"),
            (),
        ):
            status, out, err = run("calc", *arguments)
            with self.subTest(arguments=arguments):
                self.assertEqual((status, out, err.count("\n")), (2, "", 1))

    def test_batch_answers_line_by_line(self) -> None:
        """A wrong line is an error of its own; the others are answered."""
        good = json.dumps({"calc": "species-convert", "in": {"value": 1, "from": "N", "to": "N"}})
        name = self.file("batch.jsonl", f"{good}\nnot json\n\n[1]\n{good}\n")
        lines = [json.loads(line) for line in run("calc", "--batch", name)[1].splitlines()]
        self.assertEqual([list(line) for line in lines], [["out"], ["error"], ["error"], ["out"]])

    def test_list_names_source_and_units(self) -> None:
        """Every calculation with its source."""
        _, out, _ = run("calc", "--list")
        self.assertEqual(out.count("source: "), len(calculations()))
        self.assertIn("normality_eq_l eq/L: normality of the titrant", out)


class Run(Files):
    def test_a_runs_file_gives_result_interval_and_verdicts(self) -> None:
        """The context's limits are judged too."""
        limits = [limit.model_dump(mode="json") for limit in limit_set("ccme-freshwater").limits]
        name = self.file("run.jsonl", write(big(), walk((7, 12, 8)).events, {"limits": limits}))
        status, out, _ = run("run", "chloride-drops-15ml", name, "--json")
        told = json.loads(out)
        self.assertEqual((status, told["finish"], told["decision"]), (0, "done", "closest-two"))
        self.assertEqual(told["result"]["text"], "58 mg/L as Cl")
        self.assertEqual([v["interval"] for v in told["verdicts"]], ["within", "within"])
        self.assertEqual([d["used"] for d in told["determinations"]], [False, True, False, True])

    def test_a_run_in_its_kind_of_water(self) -> None:
        """A step of tap water alone is left out of a run whose file says that it was a stream."""
        method = shipped("oxygen-ampoule")
        extra = {"id": "only-there", "kind": "tick", "title": "Stand downstream", "waters": ["tap"]}
        data = method.model_dump(mode="json", exclude_defaults=True)
        data["stages"][0]["steps"].insert(0, extra)
        path = self.file("method.json", json.dumps(data))
        taps = Taps(method).before().read("4")
        for kind, done in (("stream", True), ("tap", False)):
            text = write(method, taps.events, {"water_kind": kind})
            status, out, _ = run("run", path, self.file("run.jsonl", text), "--json")
            with self.subTest(kind=kind):
                self.assertEqual(status, 0)
                self.assertEqual(json.loads(out)["finish"] == "done", done)

    def test_for_people(self) -> None:
        """Working line, interval, sentences."""
        name = self.file("run.jsonl", write(big(), walk((7, 8)).events, {}))
        _, out, _ = run("run", "chloride-drops-15ml", name)
        self.assertIn("7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl\ninterval: 49–63\n", out)

    def test_a_method_from_a_file_and_a_mismatch(self) -> None:
        """Another document than the one the events were made with is said."""
        text = shipped_text("chloride-drops-15ml").replace('factor: "8.3"', 'factor: "8.30"')
        method = self.file("mine.yaml", text)
        events = self.file("run.jsonl", write(big(), walk((7, 8)).events, {}))
        self.assertIn("another document", run("run", method, events)[1])

    def test_drawn_runs_are_told_one_by_one(self) -> None:
        """What simulate prints for a count of three is three runs; --json is a line each."""
        drawn = run("methods", "simulate", "chloride-drops-15ml", "--true", "55", "--count", "3")[1]
        name = self.file("drawn.jsonl", drawn)
        lines = run("run", "chloride-drops-15ml", name, "--json")[1].splitlines()
        self.assertEqual([json.loads(line)["finish"] for line in lines], ["done"] * 3)

    def test_what_cannot_be_read(self) -> None:
        """A missing file, a wrong line, a missing argument: status 2."""
        bad = self.file("bad.jsonl", "{}\n")
        for arguments in (
            ("chloride-drops-15ml", "/nowhere"),
            ("chloride-drops-15ml", bad),
            ("x", bad),
            ("chloride-drops-15ml", self.file("empty.jsonl", "")),
            (),
        ):
            with self.subTest(arguments=arguments):
                self.assertEqual(run("run", *arguments)[0], 2)


class Methods(Files):
    def test_list_show_and_check(self) -> None:
        """What ships is listed, shown as written, and in order."""
        self.assertIn("chloride-drops-5ml  version 5", run("methods", "list")[1])
        self.assertEqual(
            run("methods", "show", "chloride-drops-5ml")[1], shipped_text("chloride-drops-5ml")
        )
        self.assertIn("pair: 94 rows", run("methods", "check", "chloride-drops-5ml")[1])

    def test_check_says_line_path_and_remedy(self) -> None:
        """A typing error in a document."""
        text = shipped_text("chloride-drops-15ml").replace("most: 24", "mots: 24")
        status, out, err = run("methods", "check", self.file("mine.yaml", text))
        self.assertEqual((status, out), (2, ""))
        self.assertRegex(
            err, r"line \d+, stages\[0\].reading.mots: This key is unknown. Did you mean most"
        )

    def test_simulated_runs_can_be_run(self) -> None:
        """The files that simulate writes are what run reads."""
        run(
            "methods",
            "simulate",
            "chloride-drops-15ml",
            "--true",
            "55",
            "--count",
            "3",
            "--seed",
            "2",
            "--into",
            str(self.folder),
        )
        files = sorted(self.folder.glob("*.jsonl"))
        self.assertEqual(len(files), 3)
        for file in files:
            self.assertEqual(
                json.loads(run("run", "chloride-drops-15ml", str(file), "--json")[1])["finish"],
                "done",
            )

    def test_wrong_arguments(self) -> None:
        """One line, status 2."""
        for arguments in ((), ("simulate", "chloride-drops-15ml"), ("show", "nothing"),
                          ("simulate", "chloride-drops-15ml", "--true", "-1")):  # fmt: skip
            status, out, err = run("methods", *arguments)
            with self.subTest(arguments=arguments):
                self.assertEqual((status, out, err.count("\n")), (2, "", 1))
