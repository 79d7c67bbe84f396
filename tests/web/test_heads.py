"""The signed heads of the audit: what they name that nothing within the database can show."""

import io
import json
import tempfile
from dataclasses import replace
from pathlib import Path

from django.core.management import CommandError, call_command
from django.db import connection
from django.test import override_settings

from kessa.library.equipment import note_lot
from kessa.platform.models import AuditChain, AuditEntry
from kessa.platform.verify import find_errors
from kessa_core.records import seal
from tests.builders.rooms import RoomTest


class Heads(RoomTest):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.file = Path(folder.name) / "heads.json"
        self.lot("S-1")

    def lot(self, number: str) -> None:
        note_lot(self.room.programme, self.room.monitor, reagent="starch", number=number)

    def audit(self, *arguments: str) -> str:
        """What the command says; raises CommandError where the record does not hold."""
        said = io.StringIO()
        call_command("audit", *arguments, stdout=said, stderr=said)
        return said.getvalue()

    def rewrite(self) -> None:
        """As the owner of the tables would: another word in an old entry, every seal made anew."""
        before = ""
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            cursor.execute("ALTER TABLE platform_auditentry DISABLE TRIGGER USER")
        for entry in AuditEntry.objects.of(self.room.programme).oldest_first():
            if entry.act == "lot.noted":
                entry.data["name"] = "starch, lot S-2"
            core = replace(entry.as_core(self.room.slug), before=before, hash="")
            entry.before, entry.hash = before, seal(core)
            entry.save()
            before = entry.hash
        AuditChain.objects.filter(programme=self.room.programme).update(hash=before)

    def test_they_hold_while_the_record_grows(self) -> None:
        self.audit("head", str(self.file))
        self.lot("S-3")
        self.assertIn("every head is in the record", self.audit("verify", "--head", str(self.file)))

    def test_a_consistent_rewrite_is_named(self) -> None:
        """Nothing within the database shows it."""
        self.audit("head", str(self.file))
        self.rewrite()
        self.assertEqual(list(find_errors(self.room.programme)), [])
        with self.assertRaisesMessage(CommandError, "1 break in the record"):
            self.audit("verify", "--head", str(self.file))

    def test_a_record_that_was_cut_short_is_named(self) -> None:
        """The last entry gone, the chain's head set back."""
        self.audit("head", str(self.file))
        with connection.cursor() as cursor:
            cursor.execute("SET CONSTRAINTS ALL IMMEDIATE")
            cursor.execute("ALTER TABLE platform_auditentry DISABLE TRIGGER USER")
        entries = AuditEntry.objects.of(self.room.programme).order_by("-number")
        entries[0].delete()
        last = entries[0]
        AuditChain.objects.filter(programme=self.room.programme).update(
            number=last.number, hash=last.hash
        )
        with self.assertRaises(CommandError):
            self.audit("verify", "--head", str(self.file))

    def test_heads_that_were_changed_or_signed_elsewhere_are_refused(self) -> None:
        self.audit("head", str(self.file))
        heads = json.loads(self.file.read_text())
        for change in ({"made": "2026-01-01T00:00:00+00:00"}, {"signature": "x"}, {"heads": []}):
            with self.subTest(change), self.assertRaisesMessage(CommandError, "changed, or signed"):
                self.file.write_text(json.dumps(heads | change))
                self.audit("verify", "--head", str(self.file))
        self.file.write_text(json.dumps(heads))
        with (
            override_settings(HEAD_KEY="another"),
            self.assertRaisesMessage(CommandError, "changed, or signed"),
        ):
            self.audit("verify", "--head", str(self.file))
        for wrong in ("", "[]", "{}", "no heads"):
            self.file.write_text(wrong)
            with self.subTest(wrong), self.assertRaisesMessage(CommandError, "holds no heads"):
                self.audit("verify", "--head", str(self.file))

    def test_they_are_never_overwritten(self) -> None:
        self.file.write_text("kept")
        with self.assertRaisesMessage(CommandError, "never overwritten"):
            self.audit("head", str(self.file))
        self.assertEqual(self.file.read_text(), "kept")
