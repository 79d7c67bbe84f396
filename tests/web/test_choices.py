"""How a programme does a method: its own options, from the form to the result."""

import re

from kessa.flows.receiving import keep
from kessa.library.models import MethodVersion
from kessa.platform.models import AuditEntry
from kessa.results.models import Result
from kessa.verdicts.services import current_verdicts
from kessa_core.methods.local_settings import questions
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

METHOD = "nitrate-comparator"


class Choices(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.begun = cls.room.new_run(method=METHOD)
        cls.url = cls.room.url(f"library/{METHOD}/choices/")

    def setUp(self) -> None:
        self.client.force_login(self.room.people["manager"])

    def newest(self) -> MethodVersion:
        return MethodVersion.objects.of(self.room.programme).newest().get(method_id=METHOD)

    def form(self, **changed: object) -> dict[str, object]:
        """The form as it stands, with these answers changed."""
        data: dict[str, object] = {"why": "Agreed in the team."}
        for asked in questions(self.newest().method):
            name = f"{asked.stage}.{asked.matter}"
            data[name] = asked.current.split(",") if asked.several else asked.current
            if asked.matter == "agreement":
                data[f"{name}.in"], _, data[name] = asked.current.partition(" ")
        return data | {name.replace("__", "."): value for name, value in changed.items()}

    def play(self, run, reading: str) -> Result:
        taps = Taps(run.version.method, run=str(run.pk)).before()
        taps.read(taps.stage.reader().scale("reading").raw(reading))
        keep(self.room.programme, self.room.monitor, [e.as_json() for e in taps.events])
        return Result.objects.get(run=run)

    def test_from_the_form_to_the_result(self) -> None:
        """A new document is used from the next test on; the one under way keeps its own."""
        answer = self.client.post(self.url, self.form(nitrate__reading="lower"))
        self.assertRedirects(answer, self.room.url(f"library/{METHOD}/2.1/"))
        made = self.newest()
        self.assertEqual((made.version, made.own, made.number), (2, 1, "2.1"))
        self.assertEqual(
            AuditEntry.objects.get(act="method.own-settings").data["name"], f"{METHOD}, version 2.1"
        )
        after = self.room.new_run(method=METHOD)
        told = {self.play(run, "between 2.0 and 3.0").current for run in (self.begun, after)}
        self.assertEqual(
            {(e.number, e.method_hash) for e in told},
            {(2.5, self.begun.version.hash), (2.0, made.hash)},
        )
        page = self.client.get(self.room.url(f"results/{Result.objects.get(run=after).pk}/"))
        self.assertContains(page, "Between two shades: the next lower shade")
        self.assertContains(page, "(the kit: half-way between them)")
        self.assertContains(page, "version 2.1")
        csv = self.client.get(self.room.url("log.csv")).getvalue().decode()
        self.assertIn(f"{METHOD},2.1,{made.hash}", csv)

    def test_a_second_set_is_measured_against_the_kit(self) -> None:
        """Each set stands for itself; back to the kit's is a set without choices."""
        self.client.post(self.url, self.form(nitrate__reading="lower"))
        self.client.post(self.url, self.form(nitrate__determinations="2"))
        both = self.newest().method
        kit = {c.matter: c.kit for c in both.local_settings.choices}
        self.assertEqual(kit, {"reading": "half", "determinations": "1"})
        self.client.post(self.url, self.form(nitrate__reading="half", nitrate__determinations="1"))
        last = self.newest()
        self.assertEqual((last.number, last.method.local_settings.choices), ("2.3", ()))
        self.assertContains(self.client.get(self.room.url(f"library/{METHOD}/2.3/")), "As the kit")
        old = self.client.get(self.room.url(f"library/{METHOD}/2.1/"))
        self.assertContains(old, "This is an older version.")

    def test_nothing_changed_makes_no_document(self) -> None:
        """The same options again lead back to the document in use."""
        answer = self.client.post(self.url, self.form())
        self.assertRedirects(answer, self.room.url(f"library/{METHOD}/2/"))
        self.assertEqual(MethodVersion.objects.filter(method_id=METHOD).count(), 1)

    def test_what_is_wrong_is_said_at_its_field_and_the_rest_stays(self) -> None:
        """An agreement that is no number; a reason left out."""
        for changed, words in (
            ({"nitrate__agreement": "a lot"}, "Two agree within a whole number of steps"),
            ({"nitrate__agreement": ""}, "Enter how closely two measurements must agree."),
            ({"why": ""}, "Enter a reason"),
            ({"nitrate__reading": "guess"}, "Select a valid choice"),
        ):
            with self.subTest(words):
                data = self.form(nitrate__report="first", **changed)
                page = self.client.post(self.url, data)
                self.assertContains(page, words, status_code=422)
                chosen = re.search(r'value="first"\s+selected', page.content.decode())
                self.assertTrue(chosen)
        self.assertEqual(self.newest().own, 0)

    def test_who_did_it_before_is_told_what_changed(self) -> None:
        """On the bench, until the run has begun; not to somebody who never did it."""
        self.client.post(self.url, self.form(nitrate__reading="lower"))
        run = self.room.new_run(method=METHOD)
        url = self.room.url(f"bench/{run.pk}/")
        said = "Between two shades: the next lower shade"
        self.assertNotContains(self.client.get(url), "Changed since")
        self.client.force_login(self.room.monitor)
        page = self.client.get(url)
        self.assertContains(page, "Changed since you last did this:")
        self.assertContains(page, said)
        self.play(run, "2.0")
        self.assertNotContains(self.client.get(url), "Changed since")

    def test_bases_said_beside(self) -> None:
        """A programme that wants nothing but as N."""
        self.client.post(self.url, self.form(nitrate__bases=[]))
        result = self.play(self.room.new_run(method=METHOD), "2.0")
        said = current_verdicts(result)[0].sentences
        self.assertFalse([line for line in said if line.startswith("The same as")])
        kept = self.play(self.begun, "2.0")
        self.assertIn("The same as 9 mg/L as NO₃.", current_verdicts(kept)[0].sentences)
