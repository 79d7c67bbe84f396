"""What happened at a water: written down, withdrawn, and what changed with it."""

from datetime import UTC, datetime, timedelta
from uuid import uuid4

from django.utils import timezone

from kessa.flows.past_visits import PastSample, PastTest, PastVisit, PastVisits
from kessa.places.models import Point
from kessa.places.services import change_point
from kessa.platform.models import AuditEntry
from kessa.platform.verify import find_errors
from kessa.visits.models import WaterEvent
from kessa.visits.water_events import note_event, withdraw_event
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

START = datetime(2025, 11, 3, 9, 30, tzinfo=UTC)


class WaterEvents(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.address = self.room.url(f"points/{self.room.point.pk}/events/")

    def test_written_down_by_a_person(self) -> None:
        """It stands on the point's page, with when and by whom; in the audit, sealed."""
        sent = {
            "kind": "dose", "happened_at": "2026-03-02T09:30", "words": "12 L", "where": "all",
        }  # fmt: skip
        answer = self.client.post(self.address, sent)
        self.assertRedirects(answer, self.room.url(f"points/{self.room.point.pk}/"))
        made = WaterEvent.objects.get()
        self.assertEqual(
            (made.said, made.point, made.by), ("product added: 12 L", None, self.room.monitor)
        )
        self.assertContains(self.client.get(self.address), "product added: 12 L")
        self.assertTrue(AuditEntry.objects.filter(act="water.event").exists())
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_wrong_input_stays_in_the_form(self) -> None:
        """Still to come, no time, another kind: a sentence, and what was typed."""
        soon = f"{timezone.now() + timedelta(days=2):%Y-%m-%dT%H:%M}"
        for changed, said in (
            ({"happened_at": soon}, "That is still to come."),
            ({"happened_at": ""}, "Say when it was."),
            ({"happened_at": "soon"}, "Enter day and time"),
            ({"kind": "magic"}, "Select a valid choice"),
        ):
            sent = {
                "kind": "salt",
                "happened_at": "2026-03-02T09:30",
                "words": "lane",
                "where": "all",
            }
            answer = self.client.post(self.address, sent | changed)
            self.assertContains(answer, said, status_code=422)
            self.assertContains(answer, 'value="lane"', status_code=422)
        self.assertFalse(WaterEvent.objects.exists())

    def test_withdrawn_it_is_kept_and_not_shown(self) -> None:
        """Once; the rows stay in the record."""
        event = note_event(self.room.water, self.room.monitor, "rain", START, "", self.room.point)
        address = f"{self.address}{event.pk}/withdraw/"
        self.assertRedirects(self.client.post(address), self.address)
        self.assertFalse(withdraw_event(event, self.room.monitor))
        self.assertEqual(WaterEvent.objects.count(), 2)
        self.assertFalse(WaterEvent.objects.of(self.room.programme).standing().exists())
        self.assertNotContains(self.client.get(self.address), "Withdraw:")


class BeforeAndAfter(RoomTest):
    """Chloride at one of a pair, with salt on the lane above it after twenty weeks."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        room = cls.room
        change_point(room.point, None, pair_id=room.other.pk)
        past = PastVisits(room.programme)
        for week in range(26):
            at = START + timedelta(days=7 * week)
            both = [
                cls.sample(room.point, at, 14 + week % 2 + (12 if week >= 20 else 0)),
                cls.sample(room.other, at + timedelta(hours=1), 12 + week % 2),
            ]
            past.add(PastVisit(room.monitor, both))
        past.finish()
        cls.salted = START + timedelta(days=139)

    @staticmethod
    def sample(point: Point, at: datetime, drops: int) -> PastSample:
        run = uuid4()
        taps = Taps(run=str(run)).before().count(1, "blank").count(drops).count(drops)
        return PastSample(point, at, {}, [PastTest("chloride-drops-15ml", run, taps.events)])

    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])
        self.point = self.room.url(f"points/{self.room.point.pk}/")

    def compared(self, at: datetime, days: int = 60) -> str:
        key = f"{at.timestamp():.0f}"
        page = self.client.get(f"{self.point}?event={key}&days={days}")
        return " ".join(page.content.decode().split())

    def test_a_salting_at_one_of_a_pair(self) -> None:
        """Higher after it than before, alone and against the pair, with interval and days."""
        note_event(self.room.water, None, "salt", self.salted, "lane above", self.room.point)
        page = self.compared(self.salted)
        self.assertRegex(
            page,
            r"Chloride was \d+ mg/L as Cl higher \(\d+–\d+\) after the salting of 22 March than "
            r"before it \(8 days before, 6 days after\)\.",
        )
        self.assertRegex(page, r"Chloride less that at the weir was \d+ mg/L as Cl higher")

    def test_too_few_values(self) -> None:
        """A thaw a week before the last result."""
        late = START + timedelta(days=7 * 24 - 1)
        note_event(self.room.water, None, "thaw", late)
        self.assertIn(
            "Too few values to tell: 8 days before the thaw of 19 April and 2 days after it.",
            self.compared(late),
        )

    def test_nothing_happened(self) -> None:
        """A repair in the quiet weeks: no clear change, said with both ends."""
        quiet = START + timedelta(days=34)
        note_event(self.room.water, None, "repair", quiet)
        self.assertRegex(
            self.compared(quiet, 30),
            r"Chloride did not clearly change with the repair of 7 December 2025: the difference "
            r"lies between −\d+ and \d+ mg/L as Cl",
        )

    def test_an_event_that_is_not_there(self) -> None:
        """The page as it is without one; odd numbers of days are the usual sixty."""
        for query in ("?event=17", "?event=x&days=y", "?event=&days=9999"):
            page = self.client.get(self.point + query)
            self.assertEqual(page.status_code, 200)
            self.assertNotContains(page, "days before")

    def test_the_news_of_the_point(self) -> None:
        """Since when it has left its usual, and that its pair has not."""
        page = " ".join(self.client.get(self.point).content.decode().split())
        self.assertIn("since 23 March, 6 results in a row.", page)
        self.assertIn("as usual there.", page)
        self.assertIn("left its usual, 23 March", page)
