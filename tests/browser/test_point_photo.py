"""The mark in a point's photograph: by a tap, and by its fields."""

import re

from playwright.sync_api import FilePayload, expect

from tests.browser.base import PHONE, BrowserTest
from tests.builders.photographs import picture


class PointPhoto(BrowserTest):
    def test_a_tap_sets_the_mark(self) -> None:
        """Where the picture was tapped the ring stands, now and when the point is opened again."""
        page = self.sign_in(self.context(PHONE))
        page.goto(self.base + self.room.url(f"points/{self.room.point.pk}/"))
        page.get_by_role("link", name="Add a photograph of the place").click()
        file = FilePayload(name="ford.jpg", mimeType="image/jpeg", buffer=picture())
        page.get_by_label("Photograph").set_input_files(file)
        page.get_by_role("button", name="Save photograph").click()
        shown = page.get_by_role("img", name=re.compile("at the ford"))
        box = shown.bounding_box()
        shown.click(position={"x": box["width"] * 0.25, "y": box["height"] * 0.75})
        expect(page.get_by_label("From the left, %")).to_have_value(re.compile(r"^2[45]\.\d$"))
        page.get_by_label("From the top, %").fill("60")
        expect(page.locator(".marked-photo circle").last).to_have_attribute("cy", "60%")
        page.get_by_role("button", name="Save the mark").click()
        expect(page.get_by_role("img", name="with a ring where to sample")).to_be_visible()
        expect(page.locator(".marked-photo circle").last).to_have_attribute("cy", "60%")
