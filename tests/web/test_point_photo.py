"""A photograph of a point with a mark where the sample is taken."""

from django.core.files.uploadedfile import SimpleUploadedFile

from kessa.pages.points import photo_views
from kessa.places.models import Point
from kessa.platform.verify import find_errors
from kessa.visits.services import begin
from tests.builders.photographs import key_of, picture
from tests.builders.rooms import RoomTest


class PointPhoto(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)
        self.address = self.room.url(f"points/{self.room.point.pk}/photograph/")

    def point(self) -> Point:
        return Point.objects.of(self.room.programme).get(pk=self.room.point.pk)

    def bring(self, file: bytes, name: str = "ford.jpg"):
        sent = SimpleUploadedFile(name, file, content_type="image/jpeg")
        return self.client.post(self.address, {"do": "picture", "picture": sent})

    def test_taken_marked_and_found_again(self) -> None:
        """The picture with its ring stands on the point's page and before a visit's go or no-go."""
        file = picture()
        self.assertRedirects(self.bring(file), self.address)
        self.assertEqual((self.point().photo, self.point().mark), (key_of(file), None))
        typed = {"do": "mark", "across": "41.5", "down": "0"}
        self.assertEqual(self.client.post(self.address, typed).status_code, 302)
        self.assertEqual(self.point().mark, ("41.5", "0"))
        room = self.room
        sample = begin(room.programme, room.monitor, self.point(), "chloride-drops-15ml")
        for path in (f"points/{self.room.point.pk}/", f"samples/{sample.pk}/safety/"):
            page = self.client.get(self.room.url(path))
            self.assertContains(page, f"photographs/{key_of(file)}.jpg")
            self.assertContains(page, 'cx="41.5%" cy="0%"')
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_another_photograph_begins_without_a_mark(self) -> None:
        self.bring(picture())
        self.client.post(self.address, {"do": "mark", "across": "10", "down": "10"})
        self.bring(picture(300, 300))
        self.assertIsNone(self.point().mark)
        self.client.post(self.address, {"do": "remove"})
        self.assertEqual(self.point().photo, "")
        self.client.post(self.address, {"do": "mark", "across": "10", "down": "10"})
        self.assertIsNone(self.point().mark)

    def test_what_is_refused(self) -> None:
        """No picture, none chosen, one that is too large, a mark outside; each with a sentence."""
        self.assertContains(
            self.bring(b"no picture"), "not a photograph that can be read", status_code=422
        )
        none = self.client.post(self.address, {"do": "picture"})
        self.assertContains(none, "Choose a photograph.", status_code=422)
        with self.subTest("too large"):
            largest, photo_views.LARGEST = photo_views.LARGEST, 100
            self.addCleanup(setattr, photo_views, "LARGEST", largest)
            self.assertContains(self.bring(picture()), "too large", status_code=422)
            photo_views.LARGEST = largest
        self.bring(picture())
        for across in ("-1", "100.1", "", "x"):
            answer = self.client.post(self.address, {"do": "mark", "across": across, "down": "5"})
            self.assertEqual(answer.status_code, 422)
        self.assertIsNone(self.point().mark)
