"""The library: finding a method, those used first, and two side by side."""

from datetime import UTC, date, datetime, timedelta

import time_machine

from kessa.library.equipment import note_lot
from kessa.library.favourites import set_favourite
from kessa.library.models import Lot, MethodVersion
from kessa_core.drafts import problems, starts
from kessa_core.methods import load, shipped
from tests.builders.rooms import RoomTest
from tests.web.test_pages import FewerThan

NOON = datetime(2026, 1, 31, 12, tzinfo=UTC)
LIMIT = "ccme-freshwater/chloride-long"


class Finding(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def titles(self, **asked: object) -> list[str]:
        page = self.client.get(self.room.url("library/"), asked)
        return [one.facts.id for one in page.context["found"].object_list]

    def test_favourites_and_recent_ones_lead(self) -> None:
        """Then what is in use, then what is only shipped."""
        self.room.finished()
        set_favourite(self.room.programme, self.room.monitor, "ph-meter", marked=True)
        first = self.titles()[:3]
        self.assertEqual(first, ["ph-meter", "chloride-drops-15ml", "chloride-drops-5ml"])
        self.client.force_login(self.room.people["reviewer"])
        self.assertEqual(self.titles()[0], "chloride-drops-15ml")

    def test_conditions(self) -> None:
        """Each leaves those that fit; what cannot be read is said and takes nothing away."""
        self.assertEqual(set(self.titles(parameter="fluoride")), {"fluoride-photometer"})
        self.assertIn("chloride-burette", self.titles(parameter="chloride", value="0.5"))
        self.assertNotIn("chloride-drops-15ml", self.titles(parameter="chloride", value="0.5"))
        self.assertNotIn("nitrate-comparator", self.titles(water="turbid", parameter="nitrate"))
        page = self.client.get(self.room.url("library/"), {"value": "much"})
        self.assertContains(page, "Enter a number, such as 0.5.")
        page = self.client.get(self.room.url("library/"), {"method": "zzz"})
        self.assertContains(page, "No method fits.")

    def test_stock(self) -> None:
        """A lot in use that has not expired; on its last day it still counts."""
        Lot.objects.of(self.room.programme).delete()
        self.assertNotIn("chloride-drops-15ml", self.titles(stock="on"))
        today = date(2026, 1, 31)
        for days, counts in ((-1, False), (0, True)):
            Lot.objects.of(self.room.programme).delete()
            note_lot(
                self.room.programme, self.room.monitor, reagent="silver nitrate", number="L7",
                expires=today + timedelta(days=days),
            )  # fmt: skip
            with self.subTest(days=days), time_machine.travel(NOON, tick=False):
                self.client.force_login(self.room.monitor)
                self.assertEqual("chloride-drops-15ml" in self.titles(stock="on"), counts)

    def test_can_it_see_this_limit(self) -> None:
        """Only methods of its parameter, those that see it first."""
        page = self.client.get(self.room.url("library/"), {"limit": LIMIT})
        found = page.context["found"].object_list
        self.assertEqual({stage.parameter for one in found for stage in one.facts.stages},
                         {"chloride"})  # fmt: skip
        signs = [one.sign for one in found]
        self.assertEqual(signs, sorted(signs, key=lambda one: one == "close"))
        self.assertContains(page, "sees this limit")

    def test_a_shipped_method_can_be_read_before_it_is_used(self) -> None:
        page = self.client.get(self.room.url("library/fluoride-photometer/shipped/"))
        self.assertContains(page, shipped("fluoride-photometer").title)
        missing = self.client.get(self.room.url("library/nothing/shipped/"))
        self.assertEqual(missing.status_code, 404)

    def test_two_side_by_side(self) -> None:
        """What differs stands out; one alone, or three, are no pair."""
        url = self.room.url("library/compare/")
        both = {"method": ["chloride-drops-15ml", "chloride-burette"]}
        page = self.client.get(url, both)
        differ = {row.name: row.differ for row in page.context["rows"]}
        self.assertTrue(differ["Measures"])
        self.assertFalse(differ["Not for water that is"])
        three = ["ph-meter", "ph-strips", "ph-tablets"]
        for chosen in ([], ["ph-meter"], three, ["ph-meter", "x"]):
            with self.subTest(chosen=chosen):
                page = self.client.get(url, {"method": chosen})
                self.assertContains(page, "Choose two methods", status_code=422)

    def test_one_of_five_hundred(self) -> None:
        """At most ten queries, whatever is looked for, once the documents were read."""
        text = {
            like: problems.text_of(problems.finished(starts.from_method(shipped(like), "Own N")))
            for like in ("chloride-burette", "ph-tablets")
        }
        made = []
        for number in range(500 - len(self.titles())):
            like = "chloride-burette" if number % 40 == 0 else "ph-tablets"
            document = (
                text[like].replace("Own N", f"Own {number}").replace("own-n", f"own-{number}")
            )
            method = load(document)
            made.append(
                MethodVersion(
                    programme=self.room.programme, method_id=method.id, version=1,
                    hash=method.hash, title=method.title, document=document,
                )
            )  # fmt: skip
        MethodVersion.objects.bulk_create(made)
        for asked in (
            {},
            {"method": "own 317"},
            {"parameter": "ph", "value": "7", "page": "2"},
            {"limit": LIMIT},
        ):
            self.titles(**asked)
            headers = {"HX-Request": "true", "HX-Target": "found-methods"}
            with self.subTest(asked=asked), self.assertNumQueries(FewerThan(11)):
                self.client.get(self.room.url("library/"), asked, headers=headers)
