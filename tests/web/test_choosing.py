"""The list of tests as one person sees it: favourites, recent ones, groups."""

import re
from itertools import chain

from kessa.library.models import FavouriteTest
from tests.builders.rooms import RoomTest

BIG, NITRATE = "chloride-drops-15ml", "nitrate-comparator"


class Choosing(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.list = self.room.url(f"points/{self.room.point.pk}/tests/")
        self.address = self.list + "favourite/"

    def groups(self, by: str = "") -> dict[str, list[str]]:
        """The ids of the tests under each heading."""
        page = self.client.get(self.list, {"by": by} if by else {}).content.decode()
        found: dict[str, list[str]] = {}
        for title, test in re.findall(r'menu-label">([^<]+)<|id="favourite-\d+-([^"]+)"', page):
            if title:
                found[title] = []
            else:
                found[list(found)[-1]].append(test)
        return found

    def mark(self, method: str, marked: str = "yes", **headers: str):
        return self.client.post(self.address, {"method": method, "marked": marked}, **headers)

    def test_a_favourite_leads_and_is_one_persons(self) -> None:
        """Marked, it leads the list; unmarked, it does not; nobody else sees it."""
        self.assertNotIn("Favourites", self.groups())
        self.assertRedirects(self.mark(NITRATE), self.list)
        self.mark(NITRATE)
        self.assertEqual(next(iter(self.groups().items())), ("Favourites", [NITRATE]))
        self.client.force_login(self.room.people["manager"])
        self.assertNotIn("Favourites", self.groups())
        self.client.force_login(self.room.monitor)
        self.mark(NITRATE, "no")
        self.assertNotIn("Favourites", self.groups())

    def test_in_the_open_menu_the_list_is_exchanged(self) -> None:
        """With scripts: the list alone, the star pressed."""
        answer = self.mark(NITRATE, HTTP_HX_REQUEST="true")
        self.assertTemplateUsed(answer, "visit/tests.html")
        self.assertTemplateNotUsed(answer, "ui/base.html")
        star = rf'id="favourite-\d+-{NITRATE}"\s+aria-pressed="(\w+)"'
        self.assertEqual(re.findall(star, answer.content.decode()), ["true"])

    def test_what_is_no_test_is_not_marked(self) -> None:
        """404, and no row; a viewer may not at all."""
        self.assertEqual(self.mark("no-such-test").status_code, 404)
        self.assertEqual(self.mark("").status_code, 404)
        self.client.force_login(self.room.people["viewer"])
        self.assertEqual(self.mark(NITRATE).status_code, 403)
        self.assertFalse(FavouriteTest.objects.of(self.room.programme).exists())

    def test_recent_tests_newest_first_each_once(self) -> None:
        """One's own, before those that the programme uses most."""
        self.room.new_run()
        self.room.new_run(method=NITRATE)
        self.room.new_run()
        groups = self.groups()
        self.assertEqual(groups["Recent"], [BIG, NITRATE])
        self.assertEqual(list(groups)[:2], ["Recent", "Used most"])
        self.client.force_login(self.room.people["manager"])
        self.assertNotIn("Recent", self.groups())

    def test_by_parameter_or_by_kit(self) -> None:
        """The same tests under other headings, each once."""
        by_parameter, by_kit = self.groups(), self.groups("kit")
        every = [sorted(chain(*groups.values())) for groups in (by_parameter, by_kit)]
        self.assertEqual(every[0], every[1])
        self.assertEqual(len(every[0]), len(set(every[0])))
        self.assertIn("Nitrate", by_parameter)
        self.assertNotIn("Nitrate", by_kit)
        self.assertEqual(self.groups("nonsense"), by_parameter)
