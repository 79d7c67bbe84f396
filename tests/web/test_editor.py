"""Writing a kit down: begin, fill in, try, publish, run; two people at once; files out and in."""

from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile

from kessa.library import drafts
from kessa.library.models import MethodDraft, MethodVersion
from kessa_core.drafts import problems, starts
from kessa_core.methods import load, shipped, shipped_ids
from tests.builders.malformed import malformed
from tests.builders.people import Room
from tests.builders.rooms import RoomTest

FILLED = {
    "kit": "Grey case",
    "stages.0.title": "Sulphite",
    "stages.0.measures.parameter": "sulphite",
    "stages.0.measures.form": "total",
    "stages.0.measures.basis": "SO3",
    "stages.0.measures.unit": "mg/L",
    "stages.0.measures.decimals": "0",
    "stages.0.reading.portion_ml": "25",
    "stages.0.reading.factor": "5",
}


class EditorTest(RoomTest):
    def setUp(self) -> None:
        self.manager = self.room.people["manager"]
        self.client.force_login(self.manager)

    def begin(self, held: str = "drops", title: str = "Sulphite, the grey case") -> MethodDraft:
        """A draft begun on the page."""
        page = self.client.post(self.room.url("kits/"), {"title": title, "held": held})
        self.assertEqual(page.status_code, 302)
        return MethodDraft.objects.latest("pk")

    def url(self, draft: MethodDraft, what: str = "") -> str:
        return self.room.url(f"kits/{draft.pk}/{what}")

    def save(self, draft: MethodDraft, typed: dict[str, Any], htmx: bool = True) -> Any:
        """What the page posts when fields were typed into."""
        draft.refresh_from_db()
        sent = {"revision": draft.revision, "shown": list(typed)} | typed
        headers = {"HX-Request": "true"} if htmx else {}
        page = self.client.post(self.url(draft), sent, headers=headers)
        draft.refresh_from_db()
        return page

    def press(self, draft: MethodDraft, button: str, **more: Any) -> Any:
        draft.refresh_from_db()
        sent = {"revision": draft.revision, "button": button} | more
        page = self.client.post(self.url(draft, "change/"), sent, headers={"HX-Request": "true"})
        draft.refresh_from_db()
        return page

    def finished(self) -> MethodDraft:
        """A draft that lacks nothing."""
        draft = self.begin()
        self.save(draft, FILLED)
        self.press(draft, "do=add&path=waste")
        self.save(draft, {"waste.0.what": "the sample", "waste.0.say": "Down a drain."})
        return draft


class Writing(EditorTest):
    def test_every_start_makes_a_page(self) -> None:
        """Whatever is held: the page opens, names what is missing, and shows no error."""
        for key in starts.starts():
            with self.subTest(held=key):
                draft = self.begin(key)
                page = self.client.get(self.url(draft))
                self.assertContains(page, "Which kit is missing.")
                self.assertContains(page, "Say where the waste goes.")

    def test_every_shipped_method_can_be_copied_and_shown(self) -> None:
        """All that a shipped document says has its field; the copy lacks nothing (every fourth)."""
        for key in shipped_ids()[::4]:
            with self.subTest(method=key):
                data = starts.from_method(shipped(key), f"Copy of {key}")
                self.assertEqual(problems.problems_of(data), ())
                draft = drafts.begin(self.room.programme, self.manager, data)
                self.assertContains(self.client.get(self.url(draft)), "Nothing is missing.")

    def test_from_nothing_to_a_version(self) -> None:
        """Filled in, tried, published: version 1, its file, and the draft becomes the method."""
        draft = self.finished()
        self.assertContains(self.client.get(self.url(draft)), "Nothing is missing.")
        self.client.post(self.url(draft, "try/"))
        page = self.client.get(self.url(draft))
        self.assertContains(page, "ranges held the true value")
        self.client.post(self.url(draft, "publish/"))
        version = MethodVersion.objects.of(self.room.programme).get(
            method_id="own-sulphite-the-grey-case"
        )
        self.assertEqual((version.version, version.method.changes[0].what), (1, "First issue."))
        page = self.client.get(self.url(draft), follow=True)
        self.assertContains(page, "Sulphite, the grey case")

    def test_a_parameter_brings_its_unit_and_basis(self) -> None:
        """They follow at once, and the whole form comes back with them."""
        draft = self.begin()
        page = self.save(draft, {"stages.0.measures.parameter": "nitrate"})
        self.assertEqual(page["HX-Retarget"], "#editor")
        measures = draft.data["stages"][0]["measures"]
        self.assertEqual((measures["basis"], measures["unit"]), ("N", "mg/L"))

    def test_shape(self) -> None:
        """Steps are added before the last, moved, removed; a blank is added and taken away."""
        draft = self.finished()
        self.press(draft, "do=add-step&path=stages.0.steps&kind=wait")
        kinds = [step["kind"] for step in draft.data["stages"][0]["steps"]]
        self.assertEqual(kinds, ["tick", "wait", "count"])
        self.press(draft, "do=up&path=stages.0.steps.1")
        self.assertEqual(draft.data["stages"][0]["steps"][0]["kind"], "wait")
        self.press(draft, "do=remove&path=stages.0.steps.0")
        self.press(draft, "do=add-part&path=stages.0.blank")
        self.assertEqual(draft.data["stages"][0]["blank"]["water"], "deionised water")
        self.press(draft, "do=remove&path=stages.0.blank")
        self.assertEqual(problems.problems_of(draft.data), ())
        self.press(draft, "do=add-stage&path=stages")
        self.assertEqual(len(draft.data["stages"]), 2)

    def test_a_pasted_table(self) -> None:
        """Shades from a leaflet; one that is none says its line and changes nothing."""
        draft = self.begin("tube", "Nitrate, card")
        self.press(
            draft, "do=paste&path=stages.0.reading.shades",
            pasted="0 white\n1 pale pink\n5 pink #CC6C95",
        )  # fmt: skip
        shades = draft.data["stages"][0]["reading"]["shades"]
        self.assertEqual([one["value"] for one in shades], ["0", "1", "5"])
        self.assertEqual(shades[2]["colour"], {"name": "pink", "hex": "#CC6C95"})
        page = self.press(draft, "do=paste&path=stages.0.reading.shades", pasted="white\npink")
        self.assertContains(page, "Line 1 has no number.")
        self.assertEqual(len(draft.data["stages"][0]["reading"]["shades"]), 3)

    def test_buttons_that_are_none(self) -> None:
        """Whatever is sent, the page answers and the draft stays."""
        draft = self.finished()
        was = draft.data
        for button in ("", "do=explode&path=x", "do=remove&path=stages.9", "do=hold&path=stages.0",
                       "do=up&path=kit", "do=add&path=", "do=paste&path="):  # fmt: skip
            with self.subTest(button=button):
                self.assertEqual(self.press(draft, button).status_code, 200)
                self.assertEqual(draft.data, was)

    def test_by_hand_on_a_simulated_sample(self) -> None:
        """The bench opens with what the sample shows; nothing is recorded."""
        draft = self.finished()
        page = self.client.get(self.url(draft, "by-hand/"))
        self.assertContains(page, "A simulated sample. Nothing is recorded.")
        self.assertContains(page, 'data-practice="yes"')


class Publishing(EditorTest):
    def test_not_before_it_was_tried_as_it_stands(self) -> None:
        """Untried, changed since, or with something missing: it says so, and stays a draft."""
        draft = self.finished()
        page = self.client.post(self.url(draft, "publish/"))
        self.assertContains(page, "Try it on simulated samples first.", status_code=422)
        self.client.post(self.url(draft, "try/"))
        self.save(draft, {"stages.0.reading.portion_ml": "20"})
        page = self.client.post(self.url(draft, "publish/"))
        self.assertContains(page, "Try it on simulated samples first.", status_code=422)
        self.assertFalse(MethodVersion.objects.of(self.room.programme).filter(
            method_id__startswith="own-").exists())  # fmt: skip

    def publish(self, draft: MethodDraft, what: str = "") -> Any:
        self.client.post(self.url(draft, "try/"))
        return self.client.post(self.url(draft, "publish/"), {"what": what})

    def test_a_next_version_says_what_changed(self) -> None:
        """Version 2 with its entry before version 1's; runs keep the version they began with."""
        self.publish(self.finished())
        first = MethodVersion.objects.of(self.room.programme).latest("pk")
        self.client.post(self.room.url(f"library/{first.method_id}/next/"))
        draft = MethodDraft.objects.latest("pk")
        self.save(draft, {"stages.0.reading.factor": "4"})
        page = self.publish(draft)
        self.assertContains(page, "Say what changed in this version.", status_code=422)
        self.publish(draft, "A new lot: 4 mg/L a drop.")
        newest = MethodVersion.objects.of(self.room.programme).latest("pk")
        self.assertEqual(newest.version, 2)
        self.assertEqual([one.version for one in newest.method.changes], [2, 1])
        self.assertEqual(first.method.stages[0].reading.factor, "5")

    def test_a_shipped_methods_key_is_taken(self) -> None:
        """One's own never stands in for Kessa's."""
        draft = self.finished()
        self.save(draft, {"id": "sulphite-drops"})
        page = self.publish(draft)
        self.assertContains(page, "Kessa ships a method with the key", status_code=422)


class Together(EditorTest):
    def test_two_people_lose_nothing(self) -> None:
        """Different fields both stand; the same field shows both, and either can be taken."""
        draft = self.finished()
        mine = draft.revision
        self.save(draft, {"kit": "Blue case"})
        sent = {"revision": mine, "shown": ["short", "kit"], "short": "Sulphite", "kit": "Red case"}
        page = self.client.post(self.url(draft), sent, headers={"HX-Request": "true"})
        draft.refresh_from_db()
        self.assertEqual((draft.data["short"], draft.data["kit"]), ("Sulphite", "Blue case"))
        self.assertContains(page, "Red case")
        self.press(draft, "do=use&path=kit&value=Red case")
        self.assertEqual(draft.data["kit"], "Red case")

    def test_only_another_person_is_named(self) -> None:
        """A button pressed while one's own field was being saved names nobody."""
        draft = self.finished()
        mine = draft.revision
        self.save(draft, {"kit": "Blue case"})
        sent = {"revision": mine, "shown": "kit", "kit": "Blue case", "button": "do=explode&path=x"}
        htmx = {"HX-Request": "true"}
        page = self.client.post(self.url(draft, "change/"), sent, headers=htmx)
        self.assertNotContains(page, "changed this draft as well")
        other = self.room.people["reviewer"]
        drafts.save_fields(draft, other, draft.revision, {"kit": "Red case"})
        page = self.client.post(self.url(draft, "change/"), sent, headers=htmx)
        self.assertContains(page, f"{other} changed this draft as well")

    def test_every_revision_is_kept(self) -> None:
        """What a draft said at each of its changes."""
        draft = self.finished()
        kept = draft.revisions.order_by("number").values_list("number", flat=True)
        self.assertEqual(list(kept), list(range(1, draft.revision + 1)))

    def test_text_typed_while_somebody_saved(self) -> None:
        """The text stays as typed, the form's change stands, and the page says who."""
        draft = self.finished()
        was = draft.revision
        self.save(draft, {"kit": "Blue case"})
        sent = {"revision": was, "text": problems.text_of(draft.data | {"kit": "Red case"})}
        page = self.client.post(self.url(draft, "text/"), sent)
        self.assertContains(page, "saved this draft meanwhile", status_code=422)
        self.assertContains(page, "Red case", status_code=422)
        draft.refresh_from_db()
        self.assertEqual(draft.data["kit"], "Blue case")


class Files(EditorTest):
    def bring_in(self, text: str | bytes) -> Any:
        content = text.encode() if isinstance(text, str) else text
        file = SimpleUploadedFile("method.yaml", content, "application/yaml")
        return self.client.post(self.room.url("kits/file/"), {"file": file})

    def test_out_and_in_are_the_same(self) -> None:
        """A version's file, brought in by another programme, makes the same method."""
        draft = self.finished()
        self.client.post(self.url(draft, "try/"))
        self.client.post(self.url(draft, "publish/"))
        version = MethodVersion.objects.of(self.room.programme).latest("pk")
        address = f"library/{version.method_id}/{version.version}/file/"
        file = self.client.get(self.room.url(address)).content
        self.assertEqual(load(file.decode()).hash, version.hash)
        self.assertEqual(self.bring_in(file).status_code, 302)
        copy = MethodDraft.objects.latest("pk")
        self.assertEqual(problems.method_of(copy.data).stages, version.method.stages)

    def test_200_malformed_files(self) -> None:
        """Line, path and remedy for each, by the file and by the text; never a broken page."""
        draft = self.finished()
        count = 0
        for text in malformed(200):
            page = self.bring_in(text)
            self.assertEqual(page.status_code, 422, text[:200])
            self.assertRegex(page.content.decode(), r"line \d+", text[:200])
            if count % 10 == 0:
                draft.refresh_from_db()
                sent = {"revision": draft.revision, "text": text}
                page = self.client.post(self.url(draft, "text/"), sent, follow=True)
                self.assertIn(page.status_code, (200, 422))
                self.assertEqual(self.client.get(self.url(draft)).status_code, 200)
            count += 1
        self.assertEqual(count, 200)

    def test_no_file(self) -> None:
        """It asks for one."""
        page = self.client.post(self.room.url("kits/file/"), {})
        self.assertContains(page, "Choose a method file.", status_code=422)


class Roles(EditorTest):
    def test_only_managers_write(self) -> None:
        """Others are told; somebody else's draft does not exist."""
        draft = self.finished()
        self.client.force_login(self.room.monitor)
        for what in ("", "text/", "by-hand/"):
            self.assertEqual(self.client.get(self.url(draft, what)).status_code, 403)
        other = Room("south-room")
        self.client.force_login(other.people["manager"])
        self.assertEqual(self.client.get(other.url(f"kits/{draft.pk}/")).status_code, 404)
        self.assertEqual(self.client.post(other.url(f"kits/{draft.pk}/publish/")).status_code, 404)


class OwnPhotos(EditorTest):
    PHOTO = "data:image/jpeg;base64,/9j/4AAQSkZJRgABAQAAAQABAAD/2Q=="

    def test_it_stays_when_other_fields_are_saved(self) -> None:
        """The form does not send it each time; the bench by hand and the method's page show it."""
        draft = drafts.begin(
            self.room.programme,
            self.manager,
            starts.from_method(shipped("nitrate-ampoule"), "Mine"),
        )
        for name in ("stages.0.steps.0.photo", "stages.0.reading.shades.0.photo"):
            self.save(draft, {name: self.PHOTO})
        self.save(draft, {"kit": "Blue case"})
        stage = draft.data["stages"][0]
        self.assertEqual(
            (stage["steps"][0]["photo"], stage["reading"]["shades"][0]["photo"]),
            (self.PHOTO, self.PHOTO),
        )
        self.assertContains(self.client.get(self.url(draft)), self.PHOTO, 3)
        self.assertContains(self.client.get(self.url(draft, "by-hand/")), self.PHOTO)

    def test_an_address_is_named_as_wrong(self) -> None:
        """It is kept as typed, said to be wrong, and never drawn as it is."""
        draft = drafts.begin(
            self.room.programme,
            self.manager,
            starts.from_method(shipped("nitrate-ampoule"), "Mine"),
        )
        page = self.save(draft, {"stages.0.steps.0.photo": "https://example.org/a.jpg"})
        self.assertContains(page, "photo")
