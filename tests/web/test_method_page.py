"""A method's page: what changed since a person's last test, and what is printed of it."""

from kessa.library.services import take_up
from kessa.ui.timelines import drawn_timeline
from kessa_core.describing import timeline
from kessa_core.methods import shipped
from kessa_core.methods.catalogue import shipped_text
from tests.builders.rooms import RoomTest

PH = "ph-tablets"


def newer(text: str) -> str:
    """The next version of a document, with a reason."""
    version = int(text.split("version: ")[1].split()[0])
    entry = (
        f"changes:\n  - {{version: {version + 1}, date: 2026-11-20, what: Wait a minute longer.}}\n"
    )
    return text.replace(f"version: {version}", f"version: {version + 1}", 1).replace(
        "changes:\n", entry, 1
    )


class MethodPage(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def test_what_changed_since_this_persons_last_test(self) -> None:
        """Nothing before a first test; the line of the newer version after it; not for others."""
        was = shipped(PH)
        self.room.new_run(method=PH)
        made = take_up(self.room.programme, newer(shipped_text(PH)))
        path = self.room.url(f"library/{PH}/{made.number}/")
        page = self.client.get(path)
        self.assertContains(page, "Changed since your last test")
        self.assertContains(page, "Wait a minute longer.")
        old = self.client.get(self.room.url(f"library/{PH}/{was.number}/"))
        self.assertNotContains(old, "Changed since your last test")
        self.client.force_login(self.room.people["reviewer"])
        self.assertNotContains(self.client.get(path), "Changed since your last test")

    def test_what_it_shows(self) -> None:
        """Clocks, what to lay out, pictures with their numbers, the range; of a shipped one too."""
        for path in ("chloride-drops-15ml/4/", "nitrate-ampoule/shipped/"):
            page = self.client.get(self.room.url(f"library/{path}"))
            with self.subTest(path=path):
                for words in ("Its clocks", "Lay out", 'class="picture"', "95 % range"):
                    self.assertContains(page, words)
        page = self.client.get(self.room.url("library/chloride-drops-15ml/4/"))
        self.assertContains(page, ">15 mL</text>")
        self.assertContains(page, "silver nitrate <span")
        self.assertContains(page, ">6.5</text>")

    def test_its_line(self) -> None:
        """Hands alone are never broken; a day of waiting beside minutes of hands is, and fits."""
        for key, broken in (
            ("nitrate-ampoule", False),
            ("algae-cover", False),
            ("coliforms", True),
        ):
            line = drawn_timeline(timeline(shipped(key)))
            last = line.segments[-1]
            with self.subTest(method=key):
                self.assertEqual(line.is_broken, broken)
                self.assertAlmostEqual(last.x + last.width, 1000, 0)
                self.assertTrue(all(one.width >= 16 for one in line.segments))

    def test_what_is_printed(self) -> None:
        """Card in both papers, sheet; another paper and another programme's version are 404."""
        for path, words in (
            ("card/", "sheet-of-paper a4"),
            ("card/?paper=a6", "sheet-of-paper a6"),
            ("sheet/", "Date and time of sampling"),
        ):
            page = self.client.get(self.room.url(f"library/chloride-drops-15ml/4/{path}"))
            with self.subTest(path=path):
                self.assertContains(page, words)
        for path in ("chloride-drops-15ml/4/card/?paper=a5", "chloride-drops-15ml/9/card/",
                     "no-such/shipped/card/"):  # fmt: skip
            with self.subTest(path=path):
                answer = self.client.get(self.room.url(f"library/{path}"))
                self.assertEqual(answer.status_code, 404)

    def test_waste_where_this_programme_takes_it(self) -> None:
        """The programme's own words stand on the card."""
        self.room.programme.waste = {"heavy-metal": "The red can <here>."}
        self.room.programme.save()
        page = self.client.get(self.room.url("library/chloride-drops-15ml/4/card/"))
        self.assertContains(page, "The red can &lt;here&gt;.")
