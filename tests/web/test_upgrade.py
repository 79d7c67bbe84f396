"""Data of every release so far come to this one and say the same."""

import gzip
import json
import tempfile
from pathlib import Path

from django.test import TransactionTestCase

from tests.builders.databases import empty

DATA = Path(__file__).parents[1] / "data"
BEFORE = """
SELECT json_agg(row_to_json(t) ORDER BY id) FROM (
    SELECT r.id, r.status, e.finish, e.number, e.low, e.high, e.sign, e.qualifier, e.working
    FROM log_result r JOIN log_evaluation e ON e.id = r.current_id) t
"""
AGAIN = """
import json
from kessa.log.models import Result
from kessa.log.services import state_of
from kessa_core.runs import conclude
for r in Result.objects.select_related("current", "run__version"):
    o = conclude(r.run.version.method, state_of(r.run))[0]
    v = o.value
    def nine(number): return None if number is None else float(f"{number:.9g}")
    figures = [v and v.number, v and v.interval.low, v and v.interval.high]
    told = [o.finish, o.working, *map(nine, figures)]
    e = r.current
    assert told == [e.finish, e.working, *map(nine, (e.number, e.low, e.high))], (told, e)
    assert e.context["taken_at"], e
print("same")
"""


class Upgrade(TransactionTestCase):
    def test_every_release(self) -> None:
        """Loaded, migrated: the same results, an audit that holds, and the core agrees."""
        dumps = sorted(DATA.glob("release-*.sql.gz"))
        self.assertGreaterEqual(len(dumps), 1)
        for dump in dumps:
            with (
                self.subTest(release=dump.name),
                tempfile.TemporaryDirectory() as folder,
                empty("kessa_upgrade", folder) as database,
            ):
                script = Path(folder) / "dump.sql"
                script.write_bytes(gzip.decompress(dump.read_bytes()))
                flags = ("-X", "-q", "-v", "ON_ERROR_STOP=1", "-d", database.name)
                database.tool("psql", *flags, "-f", str(script))
                before = json.loads(database.sql(BEFORE, database.name))
                self.assertGreaterEqual(len(before), 9)
                done = database.manage("migrate", "--no-input", "--verbosity", "0")
                self.assertEqual(done.returncode, 0, done.stderr)
                self.assertEqual(json.loads(database.sql(BEFORE, database.name)), before)
                audit = database.manage("audit", "verify")
                self.assertEqual(audit.returncode, 0, audit.stderr)
                again = database.manage("shell", "-v", "0", "-c", AGAIN)
                self.assertIn("same", again.stdout, again.stderr)
