"""What happened at a point, as its chart shows it."""

from django.utils import timezone

from kessa.library.equipment import note_lot
from kessa.pages.points.events import events_of
from kessa.results.models import LatestResult
from kessa.visits import services as visits
from kessa.visits.models import Sample, WaterEvent
from kessa.visits.water_events import note_event, withdraw_event
from tests.builders.rooms import RoomTest


class ChartEvents(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def test_weather_lots_and_visits_without_a_sample(self) -> None:
        """Oldest first; dry days, the first lot and what happened elsewhere are no events."""
        room = self.room
        for days_ago, weather in ((9, "dry"), (7, "heavy rain"), (5, "")):
            result = room.finished(days_ago=days_ago)
            Sample.objects.filter(pk=result.run.sample_id).update(weather_before=weather)
        note_lot(room.programme, room.monitor, reagent="silver nitrate", number="L-2")
        room.finished(days_ago=2)
        not_taken = visits.begin(room.programme, room.monitor, room.point, "chloride-drops-15ml")
        visits.do_not_sample(not_taken, room.monitor, "flood")
        elsewhere = room.new_sample(room.other)
        Sample.objects.filter(pk=elsewhere.pk).update(weather_before="thaw")
        latest = LatestResult.objects.of(room.programme).get(point=room.point)
        note_event(room.point.water, room.monitor, "salt", timezone.now(), "lane", room.other)
        event = note_event(room.point.water, room.monitor, "rain", timezone.now())
        withdraw_event(event, room.monitor)
        note_event(room.point.water, room.monitor, "dose", timezone.now(), "12 L of inhibitor")
        events = events_of(latest, WaterEvent.objects.of(room.programme).standing().at(room.point))
        self.assertEqual(
            [event.words for event in events],
            ["heavy rain in the last 24 h", "new lot L-2 of silver nitrate", "not sampled: flood",
             "product added: 12 L of inhibitor"],
        )  # fmt: skip
        page = self.client.get(room.url(f"points/{room.point.pk}/"))
        self.assertContains(page, "heavy rain in the last 24 h</title>")
        self.assertContains(page, "new lot L-2 of silver nitrate</title>")
        self.assertContains(page, "Under the chart:")
