"""Own targets for a water: typed with what the newest results would be called, kept as a limit set
of one's own, in force from a day on."""

from datetime import UTC, datetime, timedelta
from typing import Any

import time_machine
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from kessa.flows.lots import correct_lot
from kessa.library.services import in_use
from kessa.places.limit_sets import find_set
from kessa.places.models import LimitAttachment, OwnLimitSet
from kessa.places.services import limits_in_force, set_at
from kessa.platform.verify import find_errors
from kessa.verdicts.services import current_verdicts
from kessa_core.errors import UnknownName
from tests.builders.jobs import run_jobs
from tests.builders.people import Room
from tests.builders.rooms import RoomTest

CHLORIDE = "own-chloride-total"
NOON = datetime(2027, 11, 20, 12, 0, tzinfo=UTC)


@time_machine.travel(NOON)
class TargetsTest(RoomTest):
    def setUp(self) -> None:
        self.manager = self.room.people["manager"]
        self.client.force_login(self.manager)
        self.address = self.room.url(f"waters/{self.room.water.pk}/targets/")
        self.result = self.room.finished((7, 8))

    def send(self, least: str = "", most: str = "", **more: str) -> Any:
        typed = {f"least-{CHLORIDE}": least, f"most-{CHLORIDE}": most} | more
        return self.client.post(self.address, typed)

    def held(self) -> Any:
        return set_at(self.room.point, timezone.now())

    def test_what_is_typed_is_said_at_once(self) -> None:
        """58 mg/L: within 40 to 80, above 30, and nothing is saved by asking."""
        for least, most, says in (
            ("40", "80", "within limit"), ("", "30", "above limit"), ("90", "", "below limit"),
            ("40", "60", "too close to call"), ("80", "40", "the lower one first"),
            ("forty", "", "the lower one first"), ("", "80,5", "within limit"),
        ):  # fmt: skip
            typed = {f"least-{CHLORIDE}": least, f"most-{CHLORIDE}": most}
            page = self.client.post(self.address, typed, headers={"HX-Request": "true"})
            with self.subTest(least=least, most=most):
                self.assertContains(page, says)
        self.assertFalse(OwnLimitSet.objects.exists())

    def test_kept_in_force_and_judged_by(self) -> None:
        """From now on: what was sampled before keeps its verdict, the next one has the target, and
        the published limits stay beside it."""
        source = {f"source-{CHLORIDE}": "Permit 12, page 3"}
        answer = self.send("10", "30", **source)
        self.assertRedirects(answer, self.room.url("waters/"))
        found = self.held()
        ids = [one.id for one in found.limits]
        self.assertIn(CHLORIDE, ids)
        self.assertIn("chloride-long", ids)
        target = next(one for one in found.limits if one.id == CHLORIDE)
        self.assertEqual((target.bounds_text, target.document), ("10–30", "Permit 12, page 3"))
        self.assertEqual(target.tier, "treatment target")
        before = {one.limit.limit_id for one in current_verdicts(self.result)}
        self.assertNotIn(CHLORIDE, before)
        verdicts = {one.limit.limit_id: one for one in current_verdicts(self.room.finished((7, 8)))}
        self.assertEqual(verdicts[CHLORIDE].code, "beyond")
        self.assertEqual(verdicts["chloride-long"].code, "within")
        self.assertEqual(list(find_errors(self.room.programme)), [])
        page = self.client.get(self.room.url(f"limits/{found.id}/{CHLORIDE}/"))
        self.assertContains(page, "Permit 12, page 3")
        self.assertContains(self.client.get(self.room.url("limits/")), found.title)

    def test_changed_and_taken_away(self) -> None:
        """The sheet shows what is set; another band becomes another set, and so does none."""
        self.send("10", "30")
        first = limits_in_force(self.room.water, timezone.now())
        page = " ".join(self.client.get(self.address).content.decode().split())
        self.assertIn(f'name="most-{CHLORIDE}" value="30"', page)
        self.send("", "200")
        second = limits_in_force(self.room.water, timezone.now())
        self.assertNotEqual(first, second)
        self.assertEqual(find_set(self.room.programme.pk, first).limits[-1].max, "30")
        self.send()
        self.assertNotIn(CHLORIDE, [one.id for one in self.held().limits])
        self.assertIn("chloride-long", [one.id for one in self.held().limits])

    def test_from_a_day_in_the_past(self) -> None:
        """What was sampled since is judged again, in the queue."""
        day = (timezone.localdate() - timedelta(days=3)).isoformat()
        self.send("", "30", begins=day)
        self.assertEqual(run_jobs(), [1])
        self.result.refresh_from_db()
        self.assertEqual(self.result.outcome_code, "beyond")
        verdicts = {one.limit.limit_id for one in current_verdicts(self.result)}
        self.assertIn(CHLORIDE, verdicts)

    def test_a_corrected_lot_is_judged_by_the_own_set(self) -> None:
        """What computes a result again finds the own set too."""
        self.send("10", "30")
        result = self.room.finished((7, 8))
        lot = next(lot for lot in result.run.lots if lot.reagent == "silver nitrate")
        correct_lot(lot, self.manager, "measured", drop_ml=0.05, drop_sd=0.01)
        run_jobs()
        result.refresh_from_db()
        self.assertIn(CHLORIDE, {one.limit.limit_id for one in current_verdicts(result)})

    def test_nothing_is_lost_where_something_is_wrong(self) -> None:
        """Figures in the wrong order, no day: said, and all that was typed is still there."""
        for more, says in (({"begins": "soon"}, "Enter a day"), ({}, "the lower one first")):
            least = "80" if not more else "10"
            page = self.send(least, "40", **more, **{f"source-{CHLORIDE}": "Sheet 4"})
            with self.subTest(says):
                self.assertContains(page, says, status_code=422)
                self.assertContains(page, "Sheet 4", status_code=422)
        self.assertFalse(OwnLimitSet.objects.exists())

    def test_every_parameter_of_the_methods_in_use(self) -> None:
        """Also what was never measured here; what is said in words has no band."""
        for method in ("nitrite-drops-glycol", "observations"):
            in_use(self.room.programme, method, self.manager)
        page = self.client.get(self.address)
        self.assertContains(page, "most-own-nitrite-total")
        self.assertNotContains(page, "own-foam-seen")

    def test_another_programmes_set_is_not_found(self) -> None:
        self.send("10", "30")
        key = limits_in_force(self.room.water, timezone.now())
        elsewhere = Room("south-room")
        with self.assertRaises(UnknownName):
            find_set(elsewhere.programme.pk, key)
        self.client.force_login(elsewhere.people["manager"])
        page = self.client.get(elsewhere.url(f"limits/{key}/{CHLORIDE}/"))
        self.assertEqual(page.status_code, 404)

    def test_the_water_is_edited_with_its_own_set_in_force(self) -> None:
        """Saving its form leaves the targets; the list of limits offers them."""
        self.send("10", "30")
        address = self.room.url(f"waters/{self.room.water.pk}/change/")
        page = self.client.get(address)
        self.assertContains(page, "Targets for Beck")
        key = limits_in_force(self.room.water, timezone.now())
        before = LimitAttachment.objects.count()
        self.client.post(address, {"water_name": "Beck", "kind": "stream", "limit_set": key})
        self.assertEqual(LimitAttachment.objects.count(), before)

    def test_queries(self) -> None:
        """As many for ten points as for two."""

        def asked() -> int:
            with CaptureQueriesContext(connection) as made:
                self.client.get(self.address)
            return len(made)

        asked()
        few = asked()
        for number in range(3):
            self.room.new_sample(self.room.new_point(f"bend {number}"))
        self.assertEqual(asked(), few)
