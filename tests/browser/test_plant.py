"""Six plant systems and a paper sheet of targets: everything in, the first round judged, by a
newcomer, with what hands and eyes need for it added up."""

from playwright.sync_api import Locator, Page, expect

from kessa.places.models import Point
from kessa.results.models import Result
from tests.browser.base import BrowserTest

POINT_S, PRESS_S, KEY_S, THINK_S, WAIT_S = 1.1, 0.2, 0.28, 1.35, 1.0
"""Card, Moran & Newell 1980 (Communications of the ACM 23, 396-410): moving to something, a press,
a key of an average typist, thinking once before each; and each page's coming."""
NEWCOMER = 1.5
"""By how much slower than somebody who knows the way."""
LIMIT_S = 15 * 60
SALT = "Conductivity at 25 °C"
SYSTEMS = (
    ("Boiler 1", "boiler", "boiler water", ((SALT, "", "4500"), ("pH", "10.5", "12"),
     ("P alkalinity", "200", "600"), ("Chloride", "", "200"))),
    ("Boiler 2", "boiler", "boiler water", ((SALT, "", "3000"), ("pH", "10.5", "12"),
     ("P alkalinity", "100", "400"), ("Chloride", "", "100"))),
    ("Tower", "open cooling circuit", "basin", ((SALT, "", "2400"), ("pH", "7.5", "9"))),
    ("North heating", "heating loop", "drain", ((SALT, "", "1500"), ("pH", "8.2", "10"))),
    ("South heating", "heating loop", "drain", ((SALT, "", "1500"), ("pH", "8.2", "9"))),
    ("Chilled loop", "chilled loop", "drain", ((SALT, "", "3000"), ("pH", "8.2", "10"))),
)  # fmt: skip
ROUND = (("3900", ""), ("3400", ""), ("1800", "8"), ("900", "9"), ("400", "9"), ("2600", "9"))
"""Conductivity and pH of each, as written down on the round; that of a boiler is off the card."""


class Hands:
    """A person whose work is added up."""

    def __init__(self, page: Page) -> None:
        self.page, self.seconds = page, 0.0

    def click(self, what: Locator) -> None:
        self.seconds += THINK_S + POINT_S + PRESS_S
        what.click()

    def type(self, what: Locator, text: str) -> None:
        self.seconds += THINK_S + POINT_S + PRESS_S + KEY_S * len(text)
        what.fill(text)

    def choose(self, what: Locator, label: str) -> None:
        self.seconds += THINK_S + 2 * (POINT_S + PRESS_S)
        what.select_option(label=label)

    def go(self, what: Locator) -> None:
        self.click(what)
        self.page.wait_for_load_state("networkidle")
        self.seconds += WAIT_S


class Plant(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.sign_in(self.context(), self.room.people["manager"])
        self.hands = Hands(self.page)
        self.page.goto(self.base + self.room.url("waters/"))

    def add(self, name: str, kind: str, point: str) -> None:
        hands, page = self.hands, self.page
        hands.go(page.get_by_role("link", name="Points", exact=True).first)
        hands.go(page.get_by_role("link", name="Add point").first)
        hands.click(page.get_by_text("Add a stream, pool or system"))
        hands.type(page.get_by_label("Name of the new stream, pool or system"), name)
        hands.choose(page.get_by_label("Kind of water"), kind)
        hands.type(page.get_by_label("Point", exact=True), point)
        hands.type(page.get_by_label("Exact location"), f"{point}, hall")
        hands.go(page.get_by_role("button", name="Save point"))

    def set_targets(self, name: str, targets: tuple[tuple[str, str, str], ...]) -> None:
        hands, page = self.hands, self.page
        hands.go(page.get_by_role("link", name="Points", exact=True).first)
        hands.go(page.get_by_role("link", name=name, exact=True).first)
        hands.go(page.get_by_role("link", name="Targets"))
        for parameter, least, most in targets:
            for side, figure in (("at least", least), ("at most", most)):
                if figure:
                    hands.type(page.get_by_label(f"{parameter}, {side}"), figure)
        hands.go(page.get_by_role("button", name="Save targets"))

    def enter_the_round(self) -> None:
        hands, page = self.hands, self.page
        hands.go(page.get_by_role("link", name="Log", exact=True).first)
        hands.go(page.get_by_role("link", name="from paper"))
        for method in ("conductivity-meter", "ph-tablets"):
            hands.type(page.get_by_label("Find a test"), method.partition("-")[0])
            hands.click(page.locator(f'input[name="method"][value="{method}"]'))
        hands.go(page.get_by_role("button", name="Open the sheet"))
        for line, ((name, _, point, _), cells) in enumerate(zip(SYSTEMS, ROUND, strict=True)):
            row = page.locator(f'tr[data-line="{line}"]')
            if not row.count():
                hands.click(page.get_by_role("button", name="Add a line"))
            hands.choose(row.get_by_label("Point"), f"{name}, {point}")
            for field, text in zip(row.locator("input[data-cell]").all(), cells, strict=True):
                if text:
                    hands.type(field, text)
        hands.go(page.get_by_role("button", name="Save the sheet"))

    def test_in_under_a_quarter_of_an_hour(self) -> None:
        """Every target in and every value of the round judged by its own."""
        for name, kind, point, targets in SYSTEMS:
            self.add(name, kind, point)
            self.set_targets(name, targets)
        self.enter_the_round()
        expect(self.page.get_by_text("10 readings saved")).to_be_visible()
        points = Point.objects.of(self.room.programme).filter(name__in={s[2] for s in SYSTEMS})
        self.assertEqual(points.count(), len(SYSTEMS))
        judged = Result.objects.of(self.room.programme).filter(point__in=points)
        codes = dict(
            judged.filter(parameter="conductivity").values_list(
                "point__water__name", "outcome_code"
            )
        )
        self.assertEqual(codes["Boiler 2"], "beyond")
        self.assertEqual({codes[n] for n in codes if n != "Boiler 2"}, {"within"})
        self.assertEqual(judged.filter(outcome_code="none").count(), 0)
        self.assertLess(self.hands.seconds * NEWCOMER, LIMIT_S)
