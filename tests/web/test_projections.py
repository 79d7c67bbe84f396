"""Projections: kept with every act, and equal to what a rebuild makes of the facts."""

import io
from typing import Any

from django.apps import apps
from django.core.management import call_command
from django.forms.models import model_to_dict
from django.utils import timezone

from kessa.flows.correcting import correct_reading, correct_sample
from kessa.flows.desk import end_unfinished
from kessa.flows.reviewing import answer, decide
from kessa.results.models import LatestResult, Result
from kessa.runs.services import cancel, hand_over
from kessa.visits import services as visits
from tests.builders.rooms import RoomTest

PROJECTED = (
    "visits.Sample", "visits.TestAsked", "runs.Run", "results.Result", "results.LatestResult",
    "library.MethodUse",
)  # fmt: skip
OWN_KEYS = {"results.LatestResult": "id", "library.MethodUse": "id"}
"""Rows that a rebuild makes anew have new numbers."""


def snapshot() -> dict[str, list[dict[str, Any]]]:
    """Every projected row, in a fixed order."""
    found = {}
    for label in PROJECTED:
        rows = [
            {**model_to_dict(row), "pk": row.pk}
            for row in apps.get_model(label)._default_manager.all()
        ]
        if label in OWN_KEYS:
            for row in rows:
                row.pop("pk")
                row.pop(OWN_KEYS[label], None)
        found[label] = sorted(rows, key=str)
    return found


class Projections(RoomTest):
    def setUp(self) -> None:
        self.reviewer = self.room.people["reviewer"]

    def everything(self) -> None:
        """Every kind of act that a projection follows from."""
        room, reviewer = self.room, self.reviewer
        first = room.finished()
        decide(first, reviewer, "accept", "", first.current_id)
        correct_reading(first, room.monitor, "first-1", 8, "plain", "misread")
        again = room.finished(days_ago=2)
        decide(again, reviewer, "return", "which bottle?", again.current_id)
        answer(again, room.monitor, "the new one")
        moved = room.finished(days_ago=3)
        sample = moved.run.sample
        correct_sample(sample, reviewer, {"point_id": room.other.pk, "note": "x"}, "wrong point")
        rejected = room.finished((15, 14), days_ago=4)
        decide(rejected, reviewer, "reject", "wrong kit", rejected.current_id)
        opened = room.finished(days_ago=5)
        correct_reading(opened, room.monitor, "second-1", 12, "plain", "misread")
        cancel(room.new_run(), room.monitor)
        handed = room.new_run()
        hand_over(handed, room.monitor, reviewer)
        end_unfinished(room.new_run(), room.monitor, "kit was lost")
        begun = visits.begin(room.programme, room.monitor, room.point, "chloride-drops-15ml")
        visits.change_test(begun, room.monitor, "chloride-drops-5ml")
        visits.decide_to_go(begun, room.monitor)
        visits.note_context(begun, room.monitor, {"weather_now": "rain", "seen": ["foam"]})
        left = visits.begin(room.programme, room.monitor, room.point, "chloride-drops-15ml")
        visits.do_not_sample(left, room.monitor, "ice")
        gone = visits.begin(room.programme, room.monitor, room.point, "chloride-drops-15ml")
        visits.cancel(gone, room.monitor)

    def test_a_rebuild_changes_nothing(self) -> None:
        """After every kind of act, the kept projections are those of the facts."""
        self.everything()
        kept = snapshot()
        self.assertTrue(all(kept[label] for label in PROJECTED))
        call_command("rebuild_projections", verbosity=0, stdout=io.StringIO())
        made = snapshot()
        for label in PROJECTED:
            self.assertEqual(kept[label], made[label], label)

    def test_a_rebuild_mends_what_was_spoilt(self) -> None:
        """Rows that say something else are made anew."""
        self.everything()
        kept = snapshot()
        Result.objects.update(status="practice", outcome_code="beyond", waits_for="")
        LatestResult.objects.update(count=999, unusual=True)
        apps.get_model("visits.Sample")._default_manager.update(note="spoilt")
        call_command("rebuild_projections", verbosity=0, stdout=io.StringIO())
        self.assertEqual(snapshot(), kept)

    def test_newest_is_by_sampling_time(self) -> None:
        """A result entered later, of a sample taken earlier, is not the newest one."""
        newest = self.room.finished((7, 8))
        self.room.finished((9, 9), days_ago=3)
        latest = LatestResult.objects.get()
        self.assertEqual((latest.result_id, latest.count), (newest.pk, 2))
        decide(newest, self.reviewer, "reject", "wrong kit", newest.current_id)
        latest.refresh_from_db()
        self.assertEqual(latest.count, 1)
        self.assertLess(latest.sampled_at, timezone.now())
        self.assertNotEqual(latest.result_id, newest.pk)

    def test_the_last_result_of_a_quantity_goes(self) -> None:
        """A point whose only result is rejected has no newest one."""
        result = self.room.finished()
        decide(result, self.reviewer, "reject", "wrong kit", result.current_id)
        self.assertFalse(LatestResult.objects.exists())
