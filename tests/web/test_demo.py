"""The demo: loads once, tells its stories, and leaves people's work alone."""

from django.test import TestCase

from kessa.pages.demo.load import load
from kessa.platform.models import Membership
from kessa.results.models import Result
from kessa.visits.models import Sample


class Demo(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.programme = load()

    def test_eighteen_months_of_chloride_through_the_services(self) -> None:
        """Both points, every two weeks, each result with its events and evaluation."""
        results = Result.objects.of(self.programme)
        self.assertGreater(results.count(), 70)
        self.assertFalse(results.filter(current=None).exists())
        span = results.latest("sampled_at").sampled_at - results.earliest("sampled_at").sampled_at
        self.assertGreater(span.days, 520)

    def test_how_it_works(self) -> None:
        """A depth for every bottle; its own words on waste."""
        self.assertIn("30 cm below the surface", self.programme.depth_words)
        self.assertIn("heavy-metal", self.programme.waste)

    def test_its_stories(self) -> None:
        """The pond leaks at the end; one blank failed; a flood kept people away."""
        found = Result.objects.of(self.programme).of_parameter("chloride")
        below = found.filter(point__name="below the pond")
        numbers = list(below.newest_first().values_list("current__number", flat=True))
        self.assertGreater(numbers[0], 1.4 * sorted(numbers)[len(numbers) // 2])
        self.assertTrue(
            Result.objects.filter(
                current__determinations__contains=[{"rejected": "blank over 2 drops"}]
            ).exists()
        )
        self.assertEqual(Sample.objects.filter(outcome="not-taken").count(), 2)

    def test_a_second_load_changes_nothing(self) -> None:
        """Accounts, results and visits stay as they are."""
        before = (Result.objects.count(), Sample.objects.count(), Membership.objects.count())
        load()
        self.assertEqual(
            before, (Result.objects.count(), Sample.objects.count(), Membership.objects.count())
        )
