"""The audit: every change is in it, and whatever is tampered with is found and named."""

import io
import tempfile
from pathlib import Path

from django.core.management import CommandError, call_command
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils.formats import date_format

from kessa.flows.correcting import correct_reading, correct_sample
from kessa.flows.reviewing import decide
from kessa.platform.models import AuditChain, AuditEntry
from kessa.platform.registry import registry
from kessa.platform.verify import find_errors
from kessa.results.models import Evaluation
from kessa.runs.models import Event
from tests.builders.rooms import RoomTest


class Audit(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.result = cls.room.finished()
        decide(cls.result, cls.room.people["reviewer"], "accept", "", cls.result.current_id)
        correct_reading(cls.result, cls.room.monitor, "first-1", 8, "plain", "misread")
        sample = cls.result.run.sample
        correct_sample(sample, cls.room.people["reviewer"], {"note": "ice"}, "forgotten")
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            for model in (AuditEntry, Event, Evaluation):
                cursor.execute(f"ALTER TABLE {model._meta.db_table} DISABLE TRIGGER USER")

    def found(self) -> list[str]:
        return [f"{b.number}: {b.what}" for b in find_errors(self.room.programme)]

    def test_the_whole_story_is_in_it(self) -> None:
        """Each act in order, none without its sentence, and the record holds."""
        acts = list(AuditEntry.objects.oldest_first().values_list("act", flat=True))
        self.assertEqual(
            [act for act in acts if not act.startswith(("method.", "water.", "point.", "record."))],
            ["sample.begun", "sample.safe", "sample.taken", "run.opened", "run.ended",
             "result.evaluated", "acts.kept", "result.accept", "result.reopened",
             "result.evaluated", "acts.kept", "sample.corrected", "result.evaluated"],
        )  # fmt: skip
        self.assertLessEqual(set(acts), set(registry.sentences))
        self.assertEqual(self.found(), [])

    def test_a_changed_entry_is_named(self) -> None:
        """Its number and what it was about."""
        entry = AuditEntry.objects.get(act="result.accept")
        AuditEntry.objects.filter(pk=entry.pk).update(person=self.room.monitor)
        self.assertEqual(
            self.found(),
            [f"{entry.number}: was changed: result.accept of result:{self.result.pk}"],
        )

    def test_a_changed_entry_with_a_new_seal_breaks_the_next_one(self) -> None:
        """Whoever seals again has to seal everything that follows, and the head."""
        entry = AuditEntry.objects.get(act="result.accept")
        AuditEntry.objects.filter(pk=entry.pk).update(hash="0" * 64)
        self.assertIn(f"{entry.number + 1}: does not follow from the entry before it", self.found())

    def test_missing_entries_are_named(self) -> None:
        """In the middle by the gap, at the end by the head."""
        last = AuditEntry.objects.oldest_first().last().number
        AuditEntry.objects.filter(number__in=(3, 4)).delete()
        self.assertIn("5: numbers 3 to 4 are missing", self.found())
        AuditEntry.objects.filter(number=last).delete()
        self.assertIn(f"{last}: number {last} is missing", self.found())
        AuditChain.objects.update(number=last - 1)
        self.assertIn(f"{last - 1}: is not what the head of the chain says", self.found())

    def test_changed_evidence_is_named(self) -> None:
        """An act, an evaluation, and what was put in or taken out beside the audit."""
        event = Event.objects.filter(act="drop").first()
        Event.objects.filter(pk=event.pk).update(at="2026-01-01T00:00:00+00:00")
        self.assertIn("a row of runs.Event was changed", "\n".join(self.found()))
        Event.objects.filter(pk=event.pk).update(at=event.at)
        Evaluation.objects.filter(pk=self.result.current_id).update(number=61)
        self.assertIn("a row of results.Evaluation was changed", "\n".join(self.found()))
        Evaluation.objects.filter(pk=self.result.current_id).update(number=event.seq)
        Event.objects.filter(pk=event.pk).delete()
        self.assertRegex(
            "\n".join(self.found()), r"\d+ rows of runs.Event were kept, \d+ are there"
        )
        event.batch = "none"
        event.save(force_insert=True)
        self.assertIn("never entered in the audit", "\n".join(self.found()))

    def test_the_command(self) -> None:
        """Silent about a whole record; a break is named and ends with an error."""
        out = io.StringIO()
        call_command("audit", "verify", stdout=out)
        self.assertRegex(out.getvalue(), r"north-room: whole, \d+ entries, head [0-9a-f]{16}")
        AuditEntry.objects.filter(act="result.accept").update(about="result:0")
        err = io.StringIO()
        with self.assertRaisesMessage(CommandError, "1 break in the record"):
            call_command("audit", "verify", stdout=out, stderr=err)
        self.assertIn("was changed: result.accept of result:0", err.getvalue())

    def test_the_export_holds_without_a_database(self) -> None:
        """JSON lines; reading them writes nothing; a changed line is found."""
        self.client.force_login(self.room.people["manager"])
        entries = AuditEntry.objects.count()
        body = b"".join(self.client.get(self.room.url("audit.jsonl"))).decode()
        lines = body.splitlines()
        self.assertEqual((len(lines), AuditEntry.objects.count()), (entries, entries))
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "audit.jsonl"
            file.write_text(body)
            out = io.StringIO()
            call_command("audit", "verify", str(file), stdout=out)
            self.assertIn("whole", out.getvalue())
            for wrong, says in (
                (body.replace("sample.safe", "sample.soft"), "break"),
                (body + "{}\n", "is not an entry"),
            ):
                file.write_text(wrong)
                with self.assertRaisesMessage(CommandError, says):
                    call_command("audit", "verify", str(file), stdout=out, stderr=io.StringIO())

    def test_the_page(self) -> None:
        """Sentences, reasons, and the entries of one object."""
        self.client.force_login(self.room.people["reviewer"])
        page = self.client.get(self.room.url("audit/"))
        self.assertContains(page, "accepted the result")
        self.assertContains(page, "misread")
        part = self.client.get(self.room.url(f"audit/?about=result:{self.result.pk}"))
        self.assertContains(part, "the result went back to review")
        to = self.room.url(f"results/{self.result.pk}/")
        day = date_format(self.result.sampled_at, "j F Y")
        self.assertContains(part, f'<a href="{to}">Chloride of {day}, Beck, at the ford</a>')
        self.assertNotContains(part, "added a method version")

    def test_what_entries_are_about_is_named(self) -> None:
        """By what people call it, one query a kind; what is no number of a row stays as it is."""
        self.client.force_login(self.room.people["reviewer"])
        page = self.client.get(self.room.url("audit/?acts=all")).content.decode()
        for named in ("Sample of ", "Test of ", "Beck, at the ford"):
            self.assertIn(named, page)
        self.assertNotIn(f"sample:{self.result.run.sample_id}<", page)
        for about in ("result:0", "result:x", "run:1", f"result:{10**40}", "nothing", ":"):
            with self.subTest(about):
                page = self.client.get(self.room.url("audit/"), {"about": about})
                self.assertContains(page, f"Entries about {about}")

    def test_the_evidence_is_fetched_in_pieces(self) -> None:
        """As many queries for ten results as for one."""
        counts = []
        for more in (0, 9):
            for _ in range(more):
                self.room.finished()
            with CaptureQueriesContext(connection) as seen:
                self.assertEqual(self.found(), [])
            counts.append(len(seen))
        self.assertEqual(counts[0], counts[1])
