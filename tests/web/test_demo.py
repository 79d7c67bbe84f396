"""The demo: loads once, tells its stories on the pages, and leaves people's work alone."""

from django.test import TestCase
from django.utils import timezone

from kessa.pages.demo.history import BROOK, Round
from kessa.pages.demo.load import load
from kessa.pages.demo.places import WATERS
from kessa.places.models import Point
from kessa.platform.models import Membership, Person
from kessa.platform.verify import find_errors
from kessa.results.models import LatestResult, Result
from kessa.visits.models import Sample, TestSet, WaterEvent

CHLORIDE = tuple(test for test in BROOK if test[1] == "chloride")
SOME = (
    Round(1, 14, 9, "monitor", True, {"above": CHLORIDE, "below": CHLORIDE}),
    Round(0, 14, 14, "monitor", False, {"borehole": (("nitrate-ampoule", "nitrate"),)}),
    Round(4, 7, 8, "manager", False, {
        "feed": (("hardness-drops-25ml", "hardness"),),
        "boiler": (("chloride-drops-5ml", "chloride"),),
    }),
    Round(9, 14, 13, "manager", False, {"chilled": (("nitrite-drops-glycol", "nitrite"),)}),
)  # fmt: skip
"""Those rounds that the stories below need, the brook's every second time."""


class Demo(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.programme = load(SOME)

    def setUp(self) -> None:
        self.client.force_login(Person.objects.get(username="manager"))

    def today(self) -> str:
        page = self.client.get("/p/lowen-vale/today/").content.decode()
        return " ".join(page.split())

    def latest(self, point: str, parameter: str) -> LatestResult:
        return LatestResult.objects.get(point__name=point, parameter=parameter)

    def test_eighteen_months_with_everything_behind_them(self) -> None:
        """Each result with its evaluation; the whole record stands up."""
        results = Result.objects.of(self.programme)
        self.assertGreater(results.count(), 280)
        self.assertFalse(results.filter(current=None).exists())
        span = results.latest("sampled_at").sampled_at - results.earliest("sampled_at").sampled_at
        self.assertGreater(span.days, 530)
        self.assertLess(results.latest("sampled_at").sampled_at, timezone.now())
        self.assertEqual(list(find_errors(self.programme)), [])

    def test_all_its_waters(self) -> None:
        """Eight of them, each with its points, limits and sets that are due."""
        self.assertEqual(Point.objects.of(self.programme).count(), sum(len(w[-1]) for w in WATERS))
        self.assertEqual(len(WATERS), 8)
        self.assertGreaterEqual(TestSet.objects.of(self.programme).count(), 6)
        self.assertGreater(WaterEvent.objects.of(self.programme).count(), 4)

    def test_how_it_works(self) -> None:
        """A depth for every bottle; its own words on waste."""
        self.assertIn("30 cm below the surface", self.programme.depth_words)
        self.assertIn("heavy-metal", self.programme.waste)

    def test_the_softener_fails(self) -> None:
        """Today: boiler chloride and feed hardness above their targets, for weeks."""
        page = self.today()
        self.assertRegex(page, r"boiler water: chloride \d+ mg/L")
        self.assertRegex(page, r"feed water: hardness \d+ mg/L")
        chloride = self.latest("boiler water", "chloride")
        self.assertEqual(chloride.result.outcome_code, "beyond")
        self.assertTrue(chloride.as_news.lasts)

    def test_nitrite_of_the_chilled_loop_is_eaten(self) -> None:
        """Below its band, or too close to call; topped up twice before."""
        self.assertRegex(self.today(), r"chilled loop, loop: nitrite \d+ mg/L")
        self.assertIn(self.latest("loop", "nitrite").result.outcome_code, ("beyond", "close"))
        doses = WaterEvent.objects.filter(kind="dose", water__name__contains="chilled")
        self.assertEqual(doses.count(), 2)

    def test_the_borehole_is_higher_every_winter(self) -> None:
        """Within its limit, and higher than in the same weeks a year ago."""
        self.assertIn("Higher than in the same weeks a year ago", self.today())
        news = self.latest("at the wellhead", "nitrate").as_news
        assert news.year_ago is not None
        self.assertGreater(news.year_ago.now, news.year_ago.before + 1)

    def test_the_pond_leaks(self) -> None:
        """Below it chloride has left its usual band; above it nothing changed."""
        below, above = (self.latest(f"{side} the pond", "chloride") for side in ("below", "above"))
        self.assertTrue(below.as_news.lasts)
        self.assertFalse(above.as_news.lasts)

    def test_a_blank_failed_and_a_flood_kept_people_away(self) -> None:
        """Both are in the record, found like any other."""
        self.assertTrue(
            Result.objects.filter(
                current__determinations__contains=[{"rejected": "blank over 2 drops"}]
            ).exists()
        )
        untaken = Sample.objects.filter(outcome="not-taken", reason__startswith="flood")
        self.assertEqual(untaken.count(), 2)

    def test_a_second_load_changes_nothing(self) -> None:
        """Accounts, results, visits and events stay as they are."""
        models = (Result, Sample, Membership, WaterEvent, TestSet)
        before = [model.objects.count() for model in models]
        load(SOME)
        self.assertEqual(before, [model.objects.count() for model in models])
