"""What is usual at a point as the programme entered it: marked so, until the history takes over."""

from kessa.platform.verify import find_errors
from kessa.results.entered import enter_usual, entered_at
from kessa.results.models import EnteredUsual, LatestResult
from kessa.verdicts.point_context import usuals_at
from kessa_core.methods import shipped
from tests.builders.rooms import RoomTest

CHLORIDE = shipped("chloride-drops-15ml").quantity
KEY = "chloride-total-Cl-mg/L"


class UsualTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["manager"])
        self.address = self.room.url(f"points/{self.room.point.pk}/usual/")

    def enter(self, low: str, high: str, source: str = "records of 2024") -> int:
        typed = {f"low-{KEY}": low, f"high-{KEY}": high, f"source-{KEY}": source}
        return self.client.post(self.address, typed).status_code

    def latest(self) -> LatestResult:
        return LatestResult.objects.of(self.room.programme).get(point=self.room.point)

    def page(self) -> str:
        page = self.client.get(self.room.url(f"points/{self.room.point.pk}/"))
        return " ".join(page.content.decode().split())

    def test_entered_shown_and_marked(self) -> None:
        """On the point's page, on the result, in the news; the record holds."""
        self.room.finished((30, 31), days_ago=1)
        self.assertIsNone(self.latest().usual)
        self.assertEqual(self.enter("20", "60,5"), 302)
        self.assertEqual(self.latest().usual_high, 60.5)
        self.assertTrue(self.latest().unusual)
        self.assertIn("Usual here 20–61 (entered, too little history yet)", self.page())
        found = usuals_at(self.room.point, [CHLORIDE])[CHLORIDE]
        self.assertTrue(found.is_entered)
        again = self.room.finished((30, 31))
        result = self.client.get(self.room.url(f"results/{again.pk}/")).content.decode()
        self.assertIn("(entered, too little history yet): ", result)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_the_history_takes_over(self) -> None:
        """From the ninth day on the band is that of the results."""
        enter_usual(
            self.room.point, self.room.people["manager"], CHLORIDE, (500.0, 600.0), "a guess"
        )
        for day in range(8):
            self.room.finished((7, 8), days_ago=day + 1)
            self.assertEqual(self.latest().usual_entered, True)
        self.room.finished((7, 8))
        self.assertFalse(self.latest().usual_entered)
        self.assertLess(self.latest().usual_high, 100)
        page = self.client.get(self.address)
        self.assertContains(page, "which holds now")
        self.assertContains(page, "500–600, as entered")
        self.assertNotContains(page, f"low-{KEY}")
        self.enter("1", "2")
        self.assertEqual(EnteredUsual.objects.of(self.room.programme).count(), 1)

    def test_withdrawn(self) -> None:
        """Left empty again it no longer holds; what was entered stays in the record."""
        self.room.finished()
        self.enter("20", "60")
        self.enter("20", "60")
        self.assertEqual(EnteredUsual.objects.of(self.room.programme).count(), 1)
        self.enter("", "")
        self.assertIsNone(self.latest().usual)
        self.assertEqual(EnteredUsual.objects.of(self.room.programme).count(), 2)
        kept = entered_at(self.room.programme.pk, self.room.point.pk)
        self.assertIsNone(kept[CHLORIDE].as_core)

    def test_what_is_no_band(self) -> None:
        """Beside the field, with what was typed still there; nothing is saved."""
        for low, high in (("60", "20"), ("20", ""), ("x", "5"), ("-1", "5"), ("5", "5")):
            typed = {f"low-{KEY}": low, f"high-{KEY}": high}
            answer = self.client.post(self.address, typed)
            self.assertContains(answer, "the lower one first", status_code=422)
            self.assertContains(answer, f'value="{low}"', status_code=422)
        self.assertFalse(EnteredUsual.objects.of(self.room.programme).exists())


class ChartTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])
        for day in range(4):
            self.room.finished((7, 8), days_ago=day)

    def test_the_chart_as_a_table(self) -> None:
        """Fetched when it is opened: each result with its range and verdict."""
        address = self.room.url(f"points/{self.room.point.pk}/")
        self.assertContains(self.client.get(address), "The chart as a table: 4 results")
        part = {"HX-Request": "true", "HX-Target": "chart-table"}
        page = self.client.get(address, headers=part)
        self.assertContains(page, "<tr>", count=5)
        self.assertContains(page, "within limit", count=4)
        self.assertNotContains(page, "<html")
