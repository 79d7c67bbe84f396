"""Field cards and data sheets come out of a printer whole."""

import re

from playwright.sync_api import Locator, Page, expect

from kessa_core.methods import shipped_ids
from tests.browser.base import PHONE, BrowserTest, axe, overflow

PX_MM = 96 / 25.4
PAPERS = {"a4": (190, 277, 1), "a6": (95, 138, 2)}
"""Width and height inside the margins, mm, and how many pages a card may take."""
SLACK_MM = 8
"""What a page may stay empty at its foot because a step is not split."""
LONGEST = ("chlorine-dioxide-sensors", "iron-sealed-tube", "nitrite-tablets", "oxygen-syringe")

CUT = """article => [...article.querySelectorAll("p, li, h2, h3, td, span")]
  .filter(part => part.scrollWidth > part.clientWidth + 1 && part.clientWidth > 0)
  .map(part => part.textContent.trim().slice(0, 60))"""
"""Texts that are wider than their place."""


def pages_of(pdf: bytes) -> int:
    """How many pages a PDF has."""
    return len(re.findall(rb"/Type\s*/Page\b(?!s)", pdf))


class Paper(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.page = self.sign_in(self.context())

    def open(self, method: str, what: str, asked: str = "") -> Page:
        path = f"library/{method}/shipped/{what}/{asked}"
        self.page.goto(self.base + self.room.url(path))
        return self.page

    def put_in(self, method: str, paper: str) -> Locator:
        """Another card in place of the one on the page: 140 are laid out without a page each."""
        path = self.room.url(f"library/{method}/shipped/card/?paper={paper}")
        text = self.page.request.get(self.base + path).text()
        card = re.search(r"<article.*</article>", text, re.DOTALL).group()
        article = self.page.locator("article")
        article.evaluate("(article, card) => { article.outerHTML = card }", card)
        return article

    def test_every_card_fits_its_paper(self) -> None:
        """One A4 or two A6 pages, no text wider than its place, no step split."""
        self.open(LONGEST[0], "card").emulate_media(media="print")
        for paper, (width, height, pages) in PAPERS.items():
            size = {"width": round(width * PX_MM), "height": round(height * PX_MM)}
            self.page.set_viewport_size(size)
            room = pages * height - (pages - 1) * SLACK_MM
            for method in shipped_ids():
                article = self.put_in(method, paper)
                tall = article.evaluate("article => article.getBoundingClientRect().height")
                with self.subTest(method=method, paper=paper):
                    self.assertLessEqual(tall / PX_MM, room)
                    self.assertEqual(article.evaluate(CUT), [])

    def test_the_longest_as_a_printer_takes_them(self) -> None:
        """Printed, the pages are as many as promised, of the size of the paper."""
        for method in LONGEST:
            for paper, (_, _, pages) in PAPERS.items():
                pdf = self.open(method, "card", f"?paper={paper}").pdf(prefer_css_page_size=True)
                with self.subTest(method=method, paper=paper):
                    self.assertLessEqual(pages_of(pdf), pages)
                    box = re.search(rb"/MediaBox\s*\[0 0 ([\d.]+) ([\d.]+)\]", pdf)
                    wide = float(box.group(1)) / 72 * 25.4
                    self.assertAlmostEqual(wide, {"a4": 210, "a6": 105}[paper], delta=1)

    def test_a_sheet_in_the_order_of_the_work(self) -> None:
        """Blank, then both measurements; its lots; a line to write on for each count."""
        page = self.open("chloride-drops-15ml", "sheet")
        captions = page.locator("caption").all_inner_texts()
        self.assertEqual(
            captions,
            ["Before the test", "Blank", "First measurement", "Second measurement",
             "Third measurement, if needed", "Results"],
        )  # fmt: skip
        expect(page.get_by_text("Lot of silver nitrate")).to_be_visible()
        expect(page.get_by_text("Between 6.5 and 10")).to_be_visible()
        self.assertEqual(axe(page), [])

    def test_the_methods_page(self) -> None:
        """Its clocks, range and pictures, on a phone as well; card and sheet are one step away."""
        page = self.page
        for method in ("nitrate-ampoule", "coliforms", "chlorine-dioxide-sensors", "ph-meter"):
            page.goto(self.base + self.room.url(f"library/{method}/shipped/"))
            with self.subTest(method=method):
                expect(page.get_by_role("heading", name="Its clocks")).to_be_visible()
                self.assertEqual(axe(page), [])
                page.set_viewport_size(PHONE)
                self.assertLessEqual(overflow(page), 0)
                page.set_viewport_size({"width": 1280, "height": 800})
        page.get_by_role("link", name="Field card").click()
        expect(page.get_by_role("heading", name="Field card")).to_be_visible()
