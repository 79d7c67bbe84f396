"""What Today leads with: what is outside a limit before what is only unusual, a point at a time."""

from datetime import timedelta

from django.utils import timezone

from kessa.flows.past_visits import PastSample, PastVisit, PastVisits
from kessa.pages.today.news import NEWS_DAYS, overview
from kessa.places.models import Point
from tests.builders.rooms import RoomTest
from tests.web.test_water_events import BeforeAndAfter


class News(RoomTest):
    def past(self, *histories: tuple[Point, list[int]], days_ago: int = 1) -> None:
        """A result a week at each point, drop counts the oldest first; the last so long ago."""
        past = PastVisits(self.room.programme)
        for point, counts in histories:
            for week, drops in enumerate(counts):
                days = 7 * (len(counts) - 1 - week) + days_ago
                at = timezone.now() - timedelta(days=days)
                sample: PastSample = BeforeAndAfter.sample(point, at, drops)
                past.add(PastVisit(self.room.monitor, [sample]))
        past.finish()

    def told(self) -> list[str]:
        return [one.line.point.name for one in overview(self.room.programme, 1).news]

    def test_above_a_limit_comes_before_what_is_unusual(self) -> None:
        """Whichever is newer."""
        usual = [4, 5, 4, 5, 4, 5, 4, 5, 4, 5]
        third = self.room.new_point("at the mill")
        self.past((third, [5]), (self.room.other, [*usual, 14]), (self.room.point, [30]))
        self.assertEqual(self.told(), ["at the ford", "at the weir"])

    def test_old_news_are_none(self) -> None:
        """Above its limit, and longer ago than anybody would call new."""
        self.past((self.room.point, [30]), days_ago=NEWS_DAYS + 1)
        self.assertEqual(self.told(), [])

    def test_a_point_is_named_once(self) -> None:
        """With what else is news there beside it."""
        self.past((self.room.point, [4, 5, 4, 5, 4, 5, 4, 5, 4, 30]))
        self.client.force_login(self.room.people["viewer"])
        page = self.client.get(self.room.url("today/")).content.decode()
        self.assertEqual(page.count("Beck, at the ford: chloride"), 1)
        self.assertIn("Usual here", page)
