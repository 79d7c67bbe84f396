"""The library: newer versions of shipped methods, a lot for each reagent, a measured drop."""

from kessa.library.models import Lot, MethodVersion
from kessa.library.services import follow, in_use, take_up
from kessa.platform.models import AuditEntry
from kessa.results.models import Result
from kessa.runs.models import RunLot
from kessa_core.methods.catalogue import shipped_text
from tests.builders.rooms import RoomTest

CHLORIDE, NITRATE, DIOXIDE = (
    "chloride-drops-15ml", "nitrate-comparator", "chlorine-dioxide-sensors",
)  # fmt: skip


def older(method_id: str) -> str:
    """The shipped document as its first version had it, as far as this test goes."""
    text = shipped_text(method_id)
    head, _, changes = text.partition("changes:\n")
    first = next(line for line in changes.splitlines() if "version: 1," in line)
    version = next(line for line in text.splitlines() if line.startswith("version:"))
    return head.replace(version, "version: 1", 1) + "changes:\n" + first + "\n"


class Newer(RoomTest):
    def setUp(self) -> None:
        take_up(self.room.programme, older(NITRATE))

    def page(self, who: str) -> str:
        self.client.force_login(self.room.people[who])
        return self.client.get(self.room.url("library/")).content.decode()

    def test_what_changed_is_shown_and_a_manager_decides(self) -> None:
        """The newer version with its changes; used from the next test on, and sealed."""
        shown = self.page("viewer")
        self.assertIn("version 2", shown)
        self.assertIn("shaking too long is flagged", shown)
        self.assertIn("A manager can start to use it", shown)
        self.assertNotIn("Use version 2", shown)
        self.assertIn("Use version 2", self.page("manager"))
        answer = self.client.post(self.room.url(f"library/{NITRATE}/newer/"))
        self.assertRedirects(answer, self.room.url(f"library/{NITRATE}/2/"))
        newest = MethodVersion.objects.of(self.room.programme).newest().get(method_id=NITRATE)
        self.assertEqual(newest.number, "2")
        entry = AuditEntry.objects.filter(act="method.taken-up").last()
        self.assertEqual(entry.person, self.room.people["manager"])
        self.assertNotIn("Use version 2", self.page("manager"))

    def test_own_choices_are_carried_over(self) -> None:
        """The programme's options stand in the newer document too."""
        version = in_use(self.room.programme, NITRATE, self.room.monitor)
        manager = self.room.people["manager"]
        follow(version, manager, {("nitrate", "reading"): "lower"}, "as we always did")
        self.client.force_login(manager)
        self.client.post(self.room.url(f"library/{NITRATE}/newer/"))
        newest = MethodVersion.objects.of(self.room.programme).newest().get(method_id=NITRATE)
        self.assertEqual(newest.number, "2.1")
        self.assertEqual(newest.method.stages[0].reading.rule, "lower")

    def test_what_is_under_way_keeps_its_version(self) -> None:
        """A run that was opened before stays with the document it began with."""
        run = self.room.new_run(method=NITRATE)
        self.client.force_login(self.room.people["manager"])
        for _ in range(2):
            self.client.post(self.room.url(f"library/{NITRATE}/newer/"))
        run.refresh_from_db()
        self.assertEqual((run.version.number, MethodVersion.objects.filter(
            programme=self.room.programme, method_id=NITRATE).count()), ("1", 2))  # fmt: skip


class Lots(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def note(self, **described: str):
        return self.client.post(self.room.url("library/lots/new/"), described)

    def test_every_reagent_has_its_own_lot(self) -> None:
        """Three sensors, three lots: in the run, on the page, in the file, in the audit."""
        in_use(self.room.programme, DIOXIDE, self.room.monitor)
        for reagent, number in (
            ("dioxide sensors", "D-1"), ("chlorine sensors", "F-7"), ("chlorite sensors", "T-3"),
        ):  # fmt: skip
            self.note(reagent=reagent, number=number)
        run = self.room.new_run(method=DIOXIDE)
        self.assertEqual({lot.number for lot in run.lots}, {"D-1", "F-7", "T-3"})
        self.assertEqual(RunLot.objects.filter(run=run).count(), 3)
        page = self.client.get(self.room.url("library/lots/new/"))
        self.assertContains(page, "chlorite sensors")

    def test_a_measured_drop_takes_the_kits_place(self) -> None:
        """18 drops to 1 mL: 1 / 17.5 mL; results of this bottle are counted with it."""
        answer = self.note(reagent="silver nitrate", number="L-2", drops="18", opened="2026-11-18")
        self.assertEqual(answer.status_code, 302)
        lot = Lot.objects.get(number="L-2")
        self.assertAlmostEqual(lot.drop_ml, 1 / 17.5)
        result = self.room.finished((7, 8))
        factor = 0.0702 * lot.drop_ml * 35.45 * 1000 / 15
        self.assertAlmostEqual(result.current.number, 7.0 * round(factor, 2), 6)
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertContains(page, "lot L-2")
        file = self.client.get(self.room.url(f"results/{result.pk}/events.jsonl"))
        self.assertContains(file, '"drop": [0.0571428')
        self.assertContains(self.client.get(self.room.url("library/")), "measured drop, 0.0571 mL")

    def test_what_cannot_be_a_drop_is_said_and_everything_typed_stays(self) -> None:
        """Both ways at once, a weight without its density, too few, a reagent that drops not."""
        in_use(self.room.programme, NITRATE, self.room.monitor)
        for typed, says in (
            ({"drops": "18", "grams": "1.0"}, "not both"),
            ({"grams": "1.0"}, "Enter the density"),
            ({"drops": "4"}, "greater than or equal to 10"),
            ({"drops": "18", "reagent": "nitrate powder"}, "No method counts drops"),
        ):
            answer = self.note(**{"reagent": "silver nitrate", "number": "L-9"} | typed)
            with self.subTest(typed=typed):
                self.assertContains(answer, says, status_code=422)
                self.assertContains(answer, 'value="L-9"', status_code=422)
        self.assertFalse(Lot.objects.filter(number="L-9").exists())
        self.assertEqual(Result.objects.count(), 0)
