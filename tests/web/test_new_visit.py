"""A visit made by hand: points ticked one by one, each with what was tested there last."""

from django.db import connection
from django.test.utils import CaptureQueriesContext

from kessa.flows.usual_tests import usual_tests
from kessa.runs.models import Run
from kessa.visits.models import Sample, Visit
from tests.builders.rooms import RoomTest


class NewVisit(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.url = self.room.url("visits/new/")

    def test_each_point_with_its_last_tests(self) -> None:
        """At the ford what was done last; at the weir, where nothing was, the programme's own."""
        self.room.new_visit("chloride-drops-5ml")
        self.room.new_visit("chloride-drops-15ml", "ph-strips")
        found = usual_tests(self.room.programme, [self.room.point, self.room.other])
        self.assertEqual(found[self.room.point.pk], ("chloride-drops-15ml", "ph-strips"))
        self.assertLessEqual(set(found[self.room.point.pk]), set(found[self.room.other.pk]))
        page = self.client.get(self.url)
        self.assertContains(page, "Chloride, 15 mL")
        points = [self.room.point.pk, self.room.other.pk]
        answer = self.client.post(self.url, {"point": points})
        visit = Visit.objects.latest("pk")
        self.assertRedirects(answer, self.room.url(f"visits/{visit.pk}/"))
        samples = Sample.objects.of(self.room.programme).filter(visit=visit).order_by("pk")
        self.assertEqual([one.point_id for one in samples], points)
        ready = Run.objects.of(self.room.programme).filter(sample__in=samples, finish="")
        self.assertEqual(ready.filter(sample=samples[0]).count(), 2)

    def test_what_is_wrong(self) -> None:
        """Nothing ticked; another programme's point; the page again, with what was ticked."""
        for given in ({}, {"point": ["0", "x", "-1", str(10**30)]}):
            with self.subTest(given=given):
                answer = self.client.post(self.url, given)
                self.assertContains(answer, "Tick at least one point", status_code=422)
        self.assertFalse(Visit.objects.filter(programme=self.room.programme).exists())

    def test_as_many_queries_for_five_points_as_for_two(self) -> None:
        def asked() -> int:
            with CaptureQueriesContext(connection) as made:
                self.client.get(self.url)
            return len(made)

        self.room.new_visit("chloride-drops-15ml")
        asked()
        few = asked()
        for number in range(3):
            point = self.room.new_point(f"bend {number}")
            self.room.new_sample(point)
        self.assertEqual(asked(), few)
