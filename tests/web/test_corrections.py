"""Corrections from the pages: the new evaluation, the old one struck, everywhere."""

import csv
import io

from kessa.results.models import Evaluation
from kessa.visits.models import VisitEvent
from tests.builders.people import Room
from tests.builders.rooms import RoomTest


class Correcting(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.result = cls.room.finished()

    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def reading(self, **data):
        given = {"determination": "first-1", "drops": "8", "kind": "plain", "why": "misread"}
        return self.client.post(self.room.url(f"results/{self.result.pk}/correct/"), given | data)

    def sample(self, **data):
        given = {
            "point": self.room.point.pk,
            "at": self.result.sampled_at.strftime("%Y-%m-%dT%H:%M"),
            "why": "wrong note",
        }
        address = self.room.url(f"results/{self.result.pk}/correct-sample/")
        return self.client.post(address, given | data)

    def csv(self) -> list[dict[str, str]]:
        body = b"".join(self.client.get(self.room.url("log.csv"))).decode()
        return list(csv.DictReader(io.StringIO(body, newline="")))

    def test_a_reading(self) -> None:
        """8 and 8 drops: 62; the 58 stays, struck, with who, when and why."""
        old = self.result.current
        self.assertEqual(self.reading().status_code, 302)
        self.result.refresh_from_db()
        self.assertEqual(
            self.result.current.working, "8, 8 drops: (mean 8 − ½) × 8.3 = 62 mg/L as Cl"
        )
        self.assertEqual(Evaluation.objects.get(pk=old.pk).working, old.working)
        page = self.client.get(self.room.url(f"results/{self.result.pk}/"))
        self.assertContains(page, '<s class="figure">58</s>')
        self.assertContains(page, "by monitor-north-room: misread")
        self.assertContains(
            self.client.get(self.room.url("log/")),
            '<s class="soft is-size-7 is-family-monospace">58',
        )

    def test_the_csv_has_the_struck_row_below(self) -> None:
        """With status struck, who, when and why; the current row has none of them."""
        self.reading()
        new, old = self.csv()
        self.assertEqual(
            (new["value"], new["status"], new["struck_why"]), ("62", "provisional", "")
        )
        self.assertEqual(
            (old["value"], old["status"], old["struck_why"]), ("58", "struck", "misread")
        )
        self.assertEqual(old["struck_by"], "monitor-north-room")
        self.assertRegex(old["struck_utc"], r"^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ$")

    def test_the_sample_and_its_context(self) -> None:
        """Weather, temperature, point and note; the old ones stand struck on the page."""
        answer = self.sample(weather_before="thaw", water_c="6.5", point=self.room.other.pk)
        self.assertEqual(answer.status_code, 302)
        self.result.refresh_from_db()
        self.assertEqual(self.result.point, self.room.other)
        self.assertEqual(self.result.current.context["water_c"], "6.5")
        self.assertEqual(self.result.current.why, "wrong note")
        change = VisitEvent.objects.get(kind="corrected")
        self.assertEqual(change.before["water_c"], None)
        self.assertEqual(set(change.data["after"]), {"point_id", "weather_before", "water_c"})
        page = self.client.get(self.room.url(f"results/{self.result.pk}/"))
        self.assertContains(page, "Beck, at the ford")
        self.assertContains(page, "water not recorded")
        new, old = self.csv()
        self.assertEqual((new["water_c"], old["water_c"]), ("6.5", ""))

    def test_an_unchanged_minute_keeps_its_seconds(self) -> None:
        """The form knows minutes; sending it back unchanged changes nothing."""
        answer = self.sample()
        self.assertContains(answer, "Nothing was changed", status_code=422)
        self.assertEqual(Evaluation.objects.count(), 1)

    def test_refusals_keep_what_was_typed(self) -> None:
        """Every wrong field is said; the reason stays in its field."""
        for data, says in (
            ({"why": ""}, "Enter a reason"),
            ({"drops": "seven"}, "whole number of drops"),
            ({"drops": "40"}, "above the maximum count"),
            ({"drops": "1", "kind": "doubt"}, "no count below the first one"),
            ({"determination": "third-1"}, "Select a valid choice"),
        ):
            with self.subTest(data=data):
                answer = self.reading(**({"why": "because I misread"} | data))
                self.assertContains(answer, says, status_code=422)
                if "why" not in data:
                    self.assertContains(answer, 'value="because I misread"', status_code=422)
        self.assertEqual(Evaluation.objects.count(), 1)

    def test_who_may(self) -> None:
        """Its analyst and reviewers; another monitor may not."""
        other = Room("east-room").monitor
        self.room.programme.memberships.create(person=other, role="monitor")
        for person, status in ((other, 403), (self.room.people["reviewer"], 302)):
            self.client.force_login(person)
            self.assertEqual(self.reading().status_code, status)

    def test_a_correction_that_asks_for_a_third_opens_the_run_again(self) -> None:
        """7 and 12: the result awaits its reading, the bench goes on."""
        self.reading(determination="second-1", drops="12")
        self.result.refresh_from_db()
        self.assertEqual((self.result.status, self.result.run.finish), ("awaiting", ""))
        self.assertContains(self.client.get(self.room.url("bench/")), "Continue")
