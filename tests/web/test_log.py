"""The log: filters, a result's evidence, the CSV, and the file that ./kessa run reads."""

import csv
import io
import json
import tempfile
from contextlib import redirect_stdout
from decimal import Decimal
from pathlib import Path

from django.test import TestCase

from kessa.flows.correcting import correct_sample
from kessa.flows.desk import end_unfinished
from kessa.results.models import Result
from kessa.verdicts.services import current_verdicts
from kessa_core import VERSION
from kessa_core.cli.__main__ import main
from tests.builders.people import Room


class Log(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.room = Room()
        cls.within = cls.room.finished((7, 12, 8), days_ago=3)
        cls.close = cls.room.finished((15, 14), days_ago=2)
        cls.none = cls.room.finished((7, 12, 17), days_ago=1)

    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])

    def test_rows_lead_to_their_results(self) -> None:
        """Also in a programme whose name in addresses is a number."""
        room = Room(slug="0")
        result = room.finished()
        self.client.force_login(room.people["viewer"])
        to = f'<a href="/p/0/results/{result.pk}/"'
        self.assertContains(self.client.get(room.url("log/")), to)

    def test_filters(self) -> None:
        """Verdict, point and days narrow the list; wrong days are said and left out."""
        for query, ids in (
            ("", [self.none, self.close, self.within]),
            ("sign=within", [self.within]),
            ("sign=close", [self.close]),
            ("sign=none", [self.none]),
            ("sign=not-repeatable", [self.none]),
            ("sign=not-applicable", []),
            (f"point={self.room.other.pk}", []),
            (f"first={self.close.sampled_at:%Y-%m-%d}", [self.none, self.close]),
            ("first=yesterday", [self.none, self.close, self.within]),
        ):
            with self.subTest(query=query):
                page = self.client.get(self.room.url(f"log/?{query}"))
                self.assertEqual([row.result for row in page.context["rows"]], ids)

    def test_htmx_gets_the_list_alone(self) -> None:
        """The fragment replaces the div; the page is around it."""
        part = self.client.get(self.room.url("log/"), headers={"HX-Request": "true"})
        self.assertNotContains(part, "<html")
        self.assertContains(part, "3 results")

    def test_csv(self) -> None:
        """RFC 4180: CRLF, one row a result, units and bases in columns of their own."""
        body = b"".join(self.client.get(self.room.url("log.csv"))).decode("utf-8")
        self.assertEqual(body.count("\r\n"), 4)
        rows = list(csv.DictReader(io.StringIO(body, newline="")))
        row = next(row for row in rows if row["result"] == str(self.within.pk))
        for column, expected in {
            "value": "58", "unit": "mg/L", "basis": "Cl", "qualifier": "", "verdict": "within",
            "limit": "chloride-long", "limit_edition": "2012", "read": "7; 12; 8",
            "blank_read": "1", "outcome": "done", "method": "chloride-drops-15ml", "lot": "L-1",
        }.items():  # fmt: skip
            self.assertEqual(row[column], expected, column)
        self.assertEqual(next(r for r in rows if r["outcome"] == "not-repeatable")["value"], "")

    def test_a_formula_in_a_name_is_not_run_by_a_spreadsheet(self) -> None:
        """A leading sign in typed text is disarmed."""
        self.room.point.name = "=1+1"
        self.room.point.save()
        run = self.room.new_run()
        end_unfinished(run, self.room.monitor, "=HYPERLINK(1)")
        body = b"".join(self.client.get(self.room.url("log.csv"))).decode()
        self.assertIn(",'=1+1,", body)
        self.assertIn(",'=HYPERLINK(1),", body)
        for row in csv.reader(io.StringIO(body, newline="")):
            self.assertEqual([cell for cell in row if cell[:1] in ("=", "+", "@", "\t")], [])

    def test_a_negative_figure_stays_a_number(self) -> None:
        """A temperature below zero is written as one."""
        correct_sample(
            self.within.run.sample, self.room.people["reviewer"], {"air_c": Decimal("-4.5")}, "ice"
        )
        body = b"".join(self.client.get(self.room.url("log.csv"))).decode()
        self.assertIn("-4.5", [row["air_c"] for row in csv.DictReader(io.StringIO(body))])

    def test_the_page_shows_the_evidence(self) -> None:
        """Working line, each determination, limit with document and edition, lot, acts."""
        page = self.client.get(self.room.url(f"results/{self.within.pk}/"))
        for part in (
            "7, 8 drops: (mean 7.5 − ½) × 8.3 = 58 mg/L as Cl",
            "not in the mean, used for the 95 % range",
            "CCME Canadian Water Quality Guidelines, chloride (2011)", "edition 2012", "lot L-1",
            "12 × drop added", "version 4",
        ):  # fmt: skip
            self.assertContains(page, part)

    def test_the_page_fetches_where_the_uncertainty_comes_from(self) -> None:
        """Where there is a figure; of one without a two-sided range there is nothing to say."""
        budget = self.room.url(f"results/{self.within.pk}/budget/")
        self.assertContains(self.client.get(self.room.url(f"results/{self.within.pk}/")), budget)
        found = self.client.get(budget)
        for part in ("this bottle’s drop size", "sd 3.5 %", "To reduce it most"):
            self.assertContains(found, part)
        without = self.room.url(f"results/{self.none.pk}/")
        self.assertNotContains(self.client.get(without), "budget/")
        self.assertNotContains(self.client.get(f"{without}budget/"), "uncertainty")

    def test_names_are_escaped(self) -> None:
        """A point's name is text."""
        self.room.point.name = "<script>alert(1)</script>"
        self.room.point.save()
        for path in (
            "log/",
            f"results/{self.within.pk}/",
            f"points/{self.room.point.pk}/",
            "today/",
        ):
            self.assertNotContains(self.client.get(self.room.url(path)), "<script>alert")

    def test_the_events_file_makes_the_same_result(self) -> None:
        """./kessa run on the download equals what the page shows, for every outcome."""
        for result in (self.within, self.close, self.none):
            body = self.client.get(self.room.url(f"results/{result.pk}/events.jsonl")).content
            with tempfile.TemporaryDirectory() as folder, redirect_stdout(io.StringIO()) as out:
                file = Path(folder) / "run.jsonl"
                file.write_bytes(body)
                main(["run", "chloride-drops-15ml", str(file), "--json"])
            told, current = json.loads(out.getvalue()), result.current
            self.assertTrue(told["method_matches"])
            self.assertEqual(told["finish"], current.finish)
            if told["result"]:
                self.assertEqual(told["result"]["working"], current.working)
                self.assertEqual(told["result"]["number"], current.number)
                self.assertEqual(
                    (told["result"]["low"], told["result"]["high"]), (current.low, current.high)
                )
                self.assertEqual(told["verdicts"][0]["interval"], result.outcome_code)

    def test_evaluations_say_what_they_depended_on(self) -> None:
        """Core version, method hash, every lot with its revision, the limit as it stood."""
        result = Result.objects.get(pk=self.within.pk)
        current = result.current
        lots = [{"reagent": "silver nitrate", "number": "L-1", "revision": 1}]
        self.assertEqual((current.core_version, current.lots), (VERSION, lots))
        verdict = current_verdicts(result)[0]
        self.assertEqual((verdict.limit.edition, verdict.limit.data["max"]), ("2012", "120"))
        self.assertEqual(verdict.in_force_at, result.sampled_at)
        self.assertEqual(current.method_hash, self.within.run.version.hash)
