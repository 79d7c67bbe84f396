"""The limits in force, what is judged against one, what can see it; the results of a lot."""

from kessa.flows.judging import judge_waters
from kessa.flows.receiving import keep
from kessa.library.equipment import note_lot
from kessa.library.models import Lot
from kessa.places.services import attach_limits
from kessa.results.models import Result
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

LIMIT = "limits/ccme-freshwater/chloride-long/"


class Limits(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])

    def get(self, path: str, status: int = 200) -> str:
        answer = self.client.get(self.room.url(path))
        self.assertEqual(answer.status_code, status)
        return " ".join(answer.content.decode().split())

    def test_the_sets_in_force_with_their_waters(self) -> None:
        """What is measured here is listed; the rest is counted and folded away."""
        page = self.get("limits/")
        self.assertIn("applies at Beck", page)
        self.assertIn("Parameters not measured here: 10", page)
        self.room.finished()
        page = self.get("limits/")
        self.assertIn("Parameters not measured here: 8", page)
        self.assertIn(self.room.url(LIMIT), page)

    def test_a_water_without_limits(self) -> None:
        """The page says what to do first."""
        self.room.set_limits("")
        self.assertIn("No limits apply", self.get("limits/"))

    def test_what_was_judged_against_a_limit(self) -> None:
        """The newest of each point and every result; those of another programme are not there."""
        self.assertIn("No results yet", self.get(LIMIT))
        first, second = self.room.finished(days_ago=3), self.room.finished((15, 14))
        other = Room(slug="south-room").finished((9, 9))
        page = self.get(LIMIT)
        for result, told in ((first, True), (second, True), (other, False)):
            self.assertEqual(f"results/{result.pk}/" in page, told)
        newest = page.partition("Latest result at each point")[2].partition("All results compared")[
            0
        ]
        self.assertIn(f"results/{second.pk}/", newest)
        self.assertNotIn(f"results/{first.pk}/", newest)
        self.assertIn("too close to call", newest)

    def test_it_stays_with_what_was_judged_then(self) -> None:
        """Another set applies today; the result was judged against this one and still is."""
        result = self.room.finished(days_ago=3)
        self.room.set_limits("epa-freshwater")
        page = self.get(LIMIT)
        self.assertIn(f"results/{result.pk}/", page)
        self.assertNotIn("compared again since", page)
        today = self.get("limits/epa-freshwater/chloride-chronic/")
        self.assertNotIn(f"results/{result.pk}/", today)

    def test_what_was_judged_again_since(self) -> None:
        """It keeps its place and its verdict against the limit of then, marked so."""
        result = self.room.finished((15, 14), days_ago=3)
        manager = self.room.people["manager"]
        attach_limits(self.room.water, manager, "epa-freshwater", result.sampled_at)
        judge_waters(self.room.programme, [self.room.water], manager)
        page = self.get(LIMIT)
        self.assertIn(f"results/{result.pk}/", page)
        self.assertIn("long-term 120; compared again since", page)
        today = self.get("limits/epa-freshwater/chloride-chronic/")
        self.assertIn(f"results/{result.pk}/", today)
        self.assertNotIn("compared again since", today)

    def test_an_older_edition_of_the_same_limit(self) -> None:
        """A result that was judged by both is one row, with the newer edition's verdict."""
        result = self.room.finished((15, 14), days_ago=3)
        first = result.current.verdicts.get(limit__limit_id="chloride-long")
        older = first.limit
        older.pk, older.edition, older.hash = None, "2010", "older"
        older.save(force_insert=True)
        first.pk, first.limit_id, first.round = None, older.pk, first.round + 1
        first.code = "beyond"
        first.save(force_insert=True)
        page = self.get(LIMIT).partition("All results compared with it")[2]
        self.assertEqual(page.count(f"results/{result.pk}/"), 1)
        self.assertIn("above limit", page)

    def test_which_methods_can_see_it(self) -> None:
        """In use with their version and link, the other shipped ones as not used here yet."""
        page = self.get("limits/ccme-freshwater/chloride-short/")
        self.assertIn(self.room.url("library/chloride-drops-15ml/4/"), page)
        self.assertIn("Within limit up to 195 mg/L as Cl, otherwise too close to call.", page)
        self.assertIn("Can only show values within", page)
        burette = page.partition("Chloride by burette, blank subtracted")[2][:120]
        self.assertIn("not used here yet", burette)

    def test_a_limit_that_does_not_exist(self) -> None:
        """Neither a set nor a limit of it by that name."""
        self.get("limits/ccme-freshwater/nothing/", 404)
        self.get("limits/nothing/chloride-long/", 404)


class Lots(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.old = Lot.objects.get(programme=cls.room.programme)
        cls.first = cls.room.finished(days_ago=3)
        described = {"reagent": "silver nitrate", "number": "L-2"}
        cls.new = note_lot(cls.room.programme, cls.room.monitor, **described)
        cls.second = cls.room.finished()

    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])

    def test_the_results_of_a_lot(self) -> None:
        """Those whose run used it, on the page and in the CSV alike."""
        for lot, own, other in (
            (self.old, self.first, self.second), (self.new, self.second, self.first)
        ):  # fmt: skip
            with self.subTest(lot=lot.number):
                page = self.client.get(self.room.url(f"lots/{lot.pk}/"))
                self.assertContains(page, "Used in 1 test ")
                self.assertContains(page, f"results/{own.pk}/")
                self.assertNotContains(page, f"results/{other.pk}/")
                answer = self.client.get(self.room.url(f"lots/{lot.pk}/results.csv"))
                lines = b"".join(answer).decode().splitlines()
                self.assertEqual([line.partition(",")[0] for line in lines[1:]], [str(own.pk)])

    def test_a_lot_of_another_programme(self) -> None:
        """It does not exist here."""
        foreign = Lot.objects.get(programme=Room(slug="south-room").programme)
        for path in (f"lots/{foreign.pk}/", f"lots/{foreign.pk}/results.csv"):
            self.assertEqual(self.client.get(self.room.url(path)).status_code, 404)

    def test_from_the_library(self) -> None:
        """Each lot's row leads to it."""
        page = self.client.get(self.room.url("library/"))
        for lot in (self.old, self.new):
            self.assertContains(page, self.room.url(f"lots/{lot.pk}/"))

    def test_a_lot_that_nothing_rests_on(self) -> None:
        """The page says what makes it so."""
        described = {"reagent": "starch", "number": "S-1"}
        lot = note_lot(self.room.programme, self.room.monitor, **described)
        page = self.client.get(self.room.url(f"lots/{lot.pk}/"))
        self.assertContains(page, "No results yet")
        self.assertEqual(Result.objects.count(), 2)


class Statistics(RoomTest):
    def test_what_a_long_term_limit_comes_to(self) -> None:
        """At each water where it applies: of how many samples, from when, and that it screens."""
        self.client.force_login(self.room.people["viewer"])
        address = self.room.url("limits/ccme-freshwater/chloride-long/")
        self.assertNotContains(self.client.get(address), "What counts")
        self.room.finished((7, 7))
        page = self.client.get(address)
        self.assertContains(page, "One sample is no mean.")
        self.room.finished((9, 9), days_ago=30)
        page = self.client.get(address)
        self.assertContains(page, "mean of 2 samples")
        other = self.room.new_run(self.room.other)
        taps = Taps(run=str(other.pk)).before().count(1, "blank").count(7).count(7)
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        page = self.client.get(address)
        self.assertContains(page, "mean of 2 samples")
        self.assertNotContains(page, "mean of 3 samples")
        self.assertContains(page, "A screening: the rule asks for approved methods")
        self.assertContains(page, "Beck")
