"""A small picture of one's own, carried in the document."""

import unittest

from kessa_core.documents.load import InvalidDocument
from kessa_core.drafts import problems, starts
from kessa_core.judging.context import PointContext
from kessa_core.methods import load, shipped
from kessa_core.sheets import compile_sheet

PHOTO = "data:image/jpeg;base64,/9j/4AAQSkZJRgABAQAAAQABAAD/2Q=="


def with_photo(photo: str) -> str:
    """A copy of the nitrate ampoule whose first step and second shade have this picture."""
    draft = starts.from_method(shipped("nitrate-ampoule"), "With a photograph")
    draft["stages"][0]["steps"][0]["photo"] = photo
    draft["stages"][0]["reading"]["shades"][1]["photo"] = photo
    return problems.text_of(problems.finished(draft))


class OwnPhoto(unittest.TestCase):
    def test_it_is_part_of_the_document(self) -> None:
        """Read back it is the same; the sheet of the bench carries it."""
        method = load(with_photo(PHOTO))
        self.assertEqual(method.stages[0].steps[0].photo, PHOTO)
        self.assertEqual(method.stages[0].reading.shades[1].photo, PHOTO)
        self.assertNotEqual(method.hash, load(with_photo(PHOTO.replace("AQAB", "AQAC"))).hash)
        sheet = compile_sheet(method, PointContext())
        carried = [step for step in sheet["steps"].values() if "photo" in step]
        self.assertEqual([step["photo"] for step in carried], [PHOTO])

    def test_nothing_but_a_small_picture(self) -> None:
        """No address, no drawing that could hold a script, nothing that is too large."""
        for wrong in (
            "https://example.org/a.jpg",
            "data:image/svg+xml;base64,PHN2Zy8+AAAA",
            "data:text/html;base64,PHNjcmlwdD4=",
            "data:image/jpeg;base64,<script>",
            "data:image/jpeg;base64,",
            "data:image/jpeg;base64," + "A" * 40_000,
        ):
            with self.subTest(wrong=wrong[:40]), self.assertRaises(InvalidDocument) as refused:
                load(with_photo(wrong))
            self.assertTrue(all(one.path.endswith("photo") for one in refused.exception.problems))
