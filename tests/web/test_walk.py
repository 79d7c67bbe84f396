"""From a point to the bench by forms: every step, and everything that can be wrong with it."""

from datetime import timedelta

from django.utils import timezone

from kessa.runs.models import Run
from kessa.visits.models import Sample
from tests.builders.rooms import RoomTest

CONTEXT = {"weather_now": "rain", "weather_before": "thaw", "water_c": "6.5", "seen": ["foam"]}


class Walk(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def begin(self) -> Sample:
        url = self.room.url(f"points/{self.room.point.pk}/test/")
        self.client.post(url, {"method": "chloride-drops-15ml"})
        return Sample.objects.get()

    def post(self, sample: Sample, step: str, data: dict):
        return self.client.post(self.room.url(f"samples/{sample.pk}/{step}/"), data)

    def test_the_whole_way(self) -> None:
        """Begin, safe, context, sample: a run stands at the bench with the lot in use."""
        sample = self.begin()
        self.assertRedirects(
            self.post(sample, "safety", {"go": "yes"}),
            self.room.url(f"samples/{sample.pk}/context/"),
        )
        self.post(sample, "context", CONTEXT)
        now = timezone.now().strftime("%Y-%m-%dT%H:%M")
        answer = self.post(sample, "sample", {"at": now})
        run = Run.objects.get()
        self.assertRedirects(answer, self.room.url(f"bench/{run.pk}/"))
        sample.refresh_from_db()
        self.assertEqual(
            (sample.outcome, sample.weather_before, sample.seen), ("taken", "thaw", ["foam"])
        )
        self.assertEqual(
            ([lot.number for lot in run.lots], run.opened_by), (["L-1"], self.room.monitor)
        )

    def test_left_in_the_middle_it_can_be_found_again(self) -> None:
        """Today and the bench lead back to the step where the person left."""
        sample = self.begin()
        for step, data in (("safety", {"go": "yes"}), ("context", CONTEXT), ("sample", None)):
            here = self.room.url(f"samples/{sample.pk}/{step}/")
            for page in ("today/", "bench/"):
                self.assertContains(self.client.get(self.room.url(page)), f'href="{here}"')
            if data:
                self.post(sample, step, data)

    def test_not_sampled_is_a_kept_outcome(self) -> None:
        """The reason stands on the point's page."""
        sample = self.begin()
        self.post(sample, "safety", {"reason": "ice", "more": "thin at the edge"})
        page = self.client.get(self.room.url(f"points/{self.room.point.pk}/"))
        self.assertContains(page, "not sampled: ice: thin at the edge")

    def test_not_sampled_needs_a_reason(self) -> None:
        """Without one the page says so and nothing is kept."""
        sample = self.begin()
        self.assertContains(self.post(sample, "safety", {}), "Choose a reason", status_code=422)
        sample.refresh_from_db()
        self.assertEqual(sample.outcome, "open")

    def test_wrong_context_keeps_what_was_typed(self) -> None:
        """A temperature with a comma: the sentence, and the text still there."""
        answer = self.post(
            self.begin(), "context", CONTEXT | {"air_c": "6,5 C", "note": "by the oak"}
        )
        self.assertContains(answer, "Enter a number in °C, such as 6.5", status_code=422)
        self.assertContains(answer, 'value="6,5 C"', status_code=422)
        self.assertContains(answer, 'value="by the oak"', status_code=422)

    def test_a_sample_from_the_future_is_refused(self) -> None:
        """The sentence says what to set instead."""
        later = (timezone.now() + timedelta(hours=2)).strftime("%Y-%m-%dT%H:%M")
        answer = self.post(self.begin(), "sample", {"at": later})
        self.assertContains(answer, "in the future", status_code=422)
        self.assertContains(answer, f'value="{later}"', status_code=422)

    def test_a_method_that_is_not_in_use(self) -> None:
        """404, and no visit is made."""
        url = self.room.url(f"points/{self.room.point.pk}/test/")
        self.assertEqual(self.client.post(url, {"method": "nothing"}).status_code, 404)
        self.assertFalse(Sample.objects.exists())

    def test_a_test_is_begun_by_post_only(self) -> None:
        """A link cannot begin a visit."""
        url = self.room.url(f"points/{self.room.point.pk}/test/")
        self.assertEqual(self.client.get(url).status_code, 405)
