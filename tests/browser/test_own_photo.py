"""A photograph of one's own, from the file to the bench."""

import base64
import struct
import zlib

from playwright.sync_api import expect

from kessa.library.drafts import begin
from kessa.library.models import MethodDraft
from kessa_core.drafts.starts import from_method
from kessa_core.methods import shipped
from tests.browser.base import BrowserTest


def png(width: int, height: int) -> bytes:
    """A picture in which no two rows are alike, so that it does not shrink to nothing."""
    rows = b"".join(
        b"\0" + bytes((x * y * 7 + c * 31) % 256 for x in range(width) for c in range(3))
        for y in range(height)
    )

    def chunk(kind: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(rows))
        + chunk(b"IEND", b"")
    )


class OwnPhoto(BrowserTest):
    worker = True

    def test_from_the_file_to_the_bench(self) -> None:
        """A large picture is made small, kept in the draft, shown on the bench by hand; removed, it
        is gone."""
        room, manager = self.room, self.room.people["manager"]
        held = begin(room.programme, manager, from_method(shipped("nitrate-ampoule"), "My ampoule"))
        page = self.sign_in(self.context(), manager)
        page.goto(self.base + room.url(f"kits/{held.pk}/"))
        row = page.locator(".step-row").first
        row.locator("summary").first.click()
        row.get_by_text("More about this step").click()
        file = {"name": "tube.png", "mimeType": "image/png", "buffer": png(1200, 900)}
        row.get_by_label("Or your own photograph").set_input_files(file)
        expect(page.locator("img.own-photo")).to_have_count(1)
        step = MethodDraft.objects.get(pk=held.pk).data["stages"][0]["steps"][0]
        self.assertTrue(step["photo"].startswith("data:image/jpeg;base64,"))
        self.assertLess(len(step["photo"]), 40_000)
        base64.b64decode(step["photo"].partition(",")[2], validate=True)
        page.goto(self.base + room.url(f"kits/{held.pk}/by-hand/"))
        expect(page.get_by_role("img", name=step["title"])).to_be_visible()
        page.goto(self.base + room.url(f"kits/{held.pk}/"))
        row = page.locator(".step-row").first
        row.locator("summary").first.click()
        row.get_by_text("More about this step").click()
        row.get_by_role("button", name="Remove it").click()
        expect(page.locator("img.own-photo")).to_have_count(0)
        step = MethodDraft.objects.get(pk=held.pk).data["stages"][0]["steps"][0]
        self.assertNotIn("photo", step)

    def test_what_is_no_picture_is_said(self) -> None:
        room, manager = self.room, self.room.people["manager"]
        held = begin(room.programme, manager, from_method(shipped("nitrate-ampoule"), "My ampoule"))
        page = self.sign_in(self.context(), manager)
        page.goto(self.base + room.url(f"kits/{held.pk}/"))
        row = page.locator(".step-row").first
        row.locator("summary").first.click()
        row.get_by_text("More about this step").click()
        field = row.get_by_label("Or your own photograph")
        field.set_input_files({"name": "a.txt", "mimeType": "text/plain", "buffer": b"no"})
        expect(page.locator("input:invalid")).to_have_count(1)
        self.assertFalse(field.evaluate("field => field.checkValidity()"))
