"""Limit sets on their pages: read, copied, edited, compared, published, and applied from a day on
after it was seen what that changes."""

from datetime import UTC, datetime, timedelta
from typing import Any

import time_machine
from django.utils import timezone

from kessa.flows.evaluating import evaluate
from kessa.flows.judging import judge_waters
from kessa.places.limit_drafts import begin_copy
from kessa.places.limit_sets import find_set
from kessa.places.models import LimitAttachment, LimitSetDraft, OwnLimitSet
from kessa.places.services import attach_limits, limits_in_force, set_at
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.verdicts.models import Verdict
from kessa.verdicts.preview import preview
from tests.builders.jobs import run_jobs
from tests.builders.rooms import RoomTest

EVENING = datetime(2026, 11, 30, 19, 0, tzinfo=UTC)


@time_machine.travel(EVENING, tick=False)
class LimitSetsTest(RoomTest):
    def setUp(self) -> None:
        self.manager = self.room.people["manager"]
        self.client.force_login(self.manager)

    def url(self, path: str) -> str:
        return self.room.url(f"limits/{path}")

    def draft(self) -> LimitSetDraft:
        return LimitSetDraft.objects.of(self.room.programme).open().get()

    def begin(self, key: str = "ccme-freshwater") -> LimitSetDraft:
        answer = self.client.post(self.url(f"set/{key}/copy/"))
        self.assertRedirects(answer, self.url(f"drafts/{self.draft().pk}/"))
        return self.draft()

    def save_limit(self, key: str, **typed: str) -> int:
        """The form of a limit as it stands, with this typed over it; the answer's status."""
        address = self.url(f"drafts/{self.draft().pk}/limits/{key}/")
        form = self.client.get(address).context["form"]
        said = self.typed(form) | {"revision": self.draft().revision, "do": "save"} | typed
        return self.client.post(address, said).status_code

    def typed(self, form: Any) -> dict[str, Any]:
        """What a form holds, as a browser sends it."""
        said = {name: form[name].value() for name in form.fields}
        return {name: value for name, value in said.items() if value not in (None, "", [])}

    def publish(self, what: str = "Stricter.") -> OwnLimitSet:
        self.client.post(self.url(f"drafts/{self.draft().pk}/publish/"), {"what": what})
        return OwnLimitSet.objects.of(self.room.programme).latest("pk")

    def test_every_published_limit_is_read_with_its_document(self) -> None:
        """From the list to the set to the limit, without being applied anywhere."""
        page = self.client.get(self.url(""))
        self.assertContains(page, "set/eu-drinking/")
        page = self.client.get(self.url("set/eu-drinking/"))
        self.assertContains(page, "Applies nowhere today.")
        self.assertContains(page, "2020/2184")
        page = self.client.get(self.url("eu-drinking/lead/"))
        self.assertContains(page, "12 January 2036.")

    def test_copied_edited_published_applied(self) -> None:
        """A stricter edition of one's own: what would change is seen first, then the queue judges
        again, and the old verdicts stay."""
        old = self.room.finished((7, 8), days_ago=20)
        new = self.room.finished((7, 8), days_ago=3)
        self.begin()
        self.assertEqual(self.save_limit("chloride-long", max="40"), 302)
        page = self.client.get(self.url(f"drafts/{self.draft().pk}/"))
        self.assertContains(page, "What differs from Life in fresh water, CCME guidelines, 2012: 1")
        made = self.publish()
        self.assertFalse(LimitSetDraft.objects.of(self.room.programme).open().exists())
        self.assertEqual((made.family, made.based_on), ("life-in-fresh-water-ccme-guidelines-ours",
                                                        "ccme-freshwater"))  # fmt: skip
        self.assertEqual(limits_in_force(self.room.water, timezone.now()), "ccme-freshwater")
        address = self.url(f"set/{made.set_id}/attach/")
        typed = {"waters": self.room.water.pk, "begins": "2026-11-25", "do": "look"}
        page = self.client.post(address, typed)
        self.assertContains(page, "<strong>1 of 1</strong>", html=True)
        link = f'<a href="{self.room.url(f"results/{new.pk}/")}">58 mg/L as Cl</a>'
        self.assertContains(page, link, html=True)
        self.assertEqual(Result.objects.get(pk=new.pk).outcome_code, "within")
        self.client.post(address, typed | {"do": "attach"})
        run_jobs()
        self.assertEqual(Result.objects.get(pk=new.pk).outcome_code, "beyond")
        self.assertEqual(Result.objects.get(pk=old.pk).outcome_code, "within")
        rounds = Verdict.objects.filter(evaluation__result=new, leads=True).order_by("round")
        self.assertEqual([one.code for one in rounds], ["within", "beyond"])
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_the_preview_counts_what_judging_then_changes(self) -> None:
        """By SQL and by the core, from a day on and from always."""
        for drops in ((7, 8), (13, 13), (15, 14), (18, 18), (30, 31)):
            self.room.finished(drops, days_ago=3)
        for key in ("boiler-demo-low", "us-epa-drinking", "epa-freshwater", ""):
            with self.subTest(key):
                begin = timezone.now() - timedelta(days=30)
                seen = preview(self.room.water, key, begin)
                before = dict(Result.objects.values_list("pk", "outcome_code"))
                attach_limits(self.room.water, self.manager, key, begin)
                judge_waters(self.room.programme, [self.room.water], self.manager)
                after = dict(Result.objects.values_list("pk", "outcome_code"))
                changed = {pk for pk in before if before[pk] != after[pk]}
                self.assertEqual(seen.changing, len(changed))
                self.assertEqual(seen.total, 5)
                told = {number for change in seen.changes for number in change.results}
                self.assertEqual(told, changed)

    def test_from_now_on_changes_nothing_that_was_recorded(self) -> None:
        self.room.finished(days_ago=3)
        address = self.url("set/epa-freshwater/attach/")
        typed = {"waters": self.room.water.pk, "begins": "", "do": "look"}
        self.assertContains(self.client.post(address, typed), "Nothing that was recorded changes")
        self.client.post(address, typed | {"do": "attach"})
        self.assertEqual(limits_in_force(self.room.water, timezone.now()), "epa-freshwater")
        answer = self.client.post(address, {"do": "attach"})
        self.assertContains(answer, "Choose where it is to apply.", status_code=422)

    def test_at_one_point_alone(self) -> None:
        """Judged, shown and previewed there alone; then by those of its water again."""
        room, begin = self.room, timezone.now() - timedelta(days=30)
        here = room.finished((18, 18), days_ago=3)
        there = Result.objects.of(room.programme).get(pk=room.finished((18, 18), days_ago=2).pk)
        sample = there.run.sample
        type(sample).objects.filter(pk=sample.pk).update(point=room.other)
        evaluate(there.run)
        self.assertEqual(Result.objects.get(pk=there.pk).outcome_code, "beyond")
        address = self.url("set/epa-freshwater/attach/")
        typed = {"points": room.other.pk, "begins": f"{begin:%Y-%m-%d}", "do": "look"}
        page = self.client.post(address, typed)
        self.assertContains(page, "<strong>1 of 1</strong>", html=True)
        self.client.post(address, typed | {"do": "attach"})
        run_jobs()
        self.assertEqual(Result.objects.get(pk=there.pk).outcome_code, "within")
        self.assertEqual(Result.objects.get(pk=here.pk).outcome_code, "beyond")
        self.assertEqual(limits_in_force(room.water, timezone.now()), "ccme-freshwater")
        self.assertEqual(set_at(room.other, timezone.now()).id, "epa-freshwater")
        page = self.client.get(room.url(f"points/{room.other.pk}/"))
        self.assertContains(page, "Limits of this point alone")
        self.assertContains(self.client.get(self.url("set/epa-freshwater/")), str(room.other))
        again = preview(room.water, "", begin)
        self.assertEqual(again.total, 1)
        self.client.post(room.url(f"points/{room.other.pk}/limits-of-its-water/"))
        later = timezone.now() + timedelta(seconds=1)
        self.assertEqual(set_at(room.other, later).id, "ccme-freshwater")
        self.assertEqual(set_at(room.other, begin + timedelta(days=2)).id, "epa-freshwater")
        judge_waters(room.programme, [room.water], self.manager)
        self.assertEqual(Result.objects.get(pk=there.pk).outcome_code, "within")

    def test_a_second_edition(self) -> None:
        """Edited as the next edition; both stay, and stand beside each other."""
        self.begin()
        self.save_limit("chloride-long", max="100")
        first = self.publish()
        self.begin(first.set_id)
        self.assertEqual(self.draft().family, first.family)
        self.assertEqual(begin_copy(self.room.programme, self.manager, first.set_id), self.draft())
        self.save_limit("chloride-long", max="80", document="County ordinance (2026)")
        second = self.publish("The county’s ordinance")
        self.assertEqual(second.set_id, f"{first.family}-2")
        page = self.client.get(self.url(f"set/{second.set_id}/compare/?with={first.set_id}"))
        self.assertContains(page, "<td>100</td><td>80</td>", html=True)
        self.assertContains(page, "County ordinance (2026)")
        for other in ("", "nowhere", "%00", "a b"):
            page = self.client.get(self.url(f"set/{second.set_id}/compare/?with={other}"))
            self.assertEqual(page.status_code, 404)
        page = self.client.get(self.url(f"set/{second.set_id}/"))
        self.assertContains(page, "What changed: The county’s ordinance")
        self.assertContains(page, first.set_id)
        listed = self.client.get(self.url("")).content.decode()
        self.assertIn(f"set/{second.set_id}/", listed)
        self.assertNotIn(f"set/{first.set_id}/", listed)

    def test_from_a_blank_page(self) -> None:
        """A title, one limit, published; until then what is missing is named."""
        self.client.post(self.url("new/"), {"title": "Our pool"})
        draft = self.draft()
        page = self.client.get(self.url(f"drafts/{draft.pk}/"))
        self.assertContains(page, "Something is still missing")
        self.client.post(self.url(f"drafts/{draft.pk}/publish/"), {"what": ""})
        self.assertFalse(OwnLimitSet.objects.of(self.room.programme).exists())
        address = self.url(f"drafts/{draft.pk}/add/?parameter=ph")
        form = self.client.get(address).context["form"]
        typed = self.typed(form)
        answer = self.client.post(address, typed | {"revision": 1, "min": "7,0", "max": "7,6"})
        self.assertRedirects(answer, self.url(f"drafts/{draft.pk}/"))
        made = self.publish("")
        self.assertEqual(made.set_id, "our-pool-1")
        self.assertEqual(made.as_core.limits[0].bounds_text, "7.0–7.6")

    def test_a_legal_limit_needs_its_document(self) -> None:
        """Refused beside what was typed, which stays."""
        self.begin()
        draft = self.draft()
        address = self.url(f"drafts/{draft.pk}/limits/chloride-long/")
        form = self.client.get(address).context["form"]
        typed = self.typed(form)
        typed |= {"revision": 1, "tier": "legal limit", "document": "", "max": "77"}
        answer = self.client.post(address, typed)
        self.assertContains(answer, "A legal limit needs its document", status_code=422)
        self.assertContains(answer, 'value="77"', status_code=422)
        answer = self.client.post(address, typed | {"tier": "alert", "max": "much"})
        self.assertContains(answer, "Enter a number, such as 0.5.", status_code=422)

    def test_taken_out(self) -> None:
        draft = self.begin()
        address = self.url(f"drafts/{draft.pk}/limits/chloride-long/")
        self.client.post(address, {"revision": 1, "do": "remove"})
        ids = [one["id"] for one in self.draft().data["limits"]]
        self.assertNotIn("chloride-long", ids)
        self.assertEqual(self.client.get(address).status_code, 404)

    def test_two_people_editing(self) -> None:
        """The second one is told, with what was typed still there; nothing is lost."""
        draft = self.begin()
        self.save_limit("chloride-long", max="99")
        self.assertEqual(self.save_limit("chloride-long", max="88", revision="1"), 422)
        said = next(one for one in self.draft().data["limits"] if one["id"] == "chloride-long")
        self.assertEqual(said["max"], "99")
        head = {"title": "Mine", "edition": "1", "place": "", "note": "Note.", "revision": 1}
        answer = self.client.post(self.url(f"drafts/{draft.pk}/"), head)
        self.assertContains(answer, "changed this set meanwhile", status_code=422)
        self.assertContains(answer, 'value="Mine"', status_code=422)
        self.client.post(self.url(f"drafts/{draft.pk}/"), head | {"revision": 2})
        self.assertEqual(self.draft().data["title"], "Mine")

    def test_as_text(self) -> None:
        """Out as a file, in as text, the same; a mistake is named with its line."""
        shipped = self.client.get(self.url("set/ccme-freshwater/file/"))
        text = shipped.content.decode()
        self.client.post(self.url("new/"), {"title": "Pasted"})
        address = self.url(f"drafts/{self.draft().pk}/text/")
        answer = self.client.post(address, {"text": text.replace("'120'", "'110'"), "revision": 1})
        self.assertEqual(answer.status_code, 302)
        made = self.publish()
        ours = {one.id: one for one in made.as_core.limits}
        theirs = {one.id: one for one in find_set(self.room.programme.pk, "ccme-freshwater").limits}
        self.assertEqual(ours["chloride-long"].max, "110")
        del ours["chloride-long"], theirs["chloride-long"]
        self.assertEqual(ours, theirs)
        self.client.post(self.url("new/"), {"title": "Pasted"})
        address = self.url(f"drafts/{self.draft().pk}/text/")
        wrong = text.replace("tier: guideline", "tier: wish", 1)
        for typed, said in (
            (wrong, "limits[0].tier"),
            ("x", "This is no limit set"),
            ("", "This is no limit set"),
        ):
            answer = self.client.post(address, {"text": typed, "revision": 1})
            self.assertContains(answer, said, status_code=422)
        self.assertContains(self.client.get(self.url("schema.json")), "kessa-limits/1")

    def test_thrown_away(self) -> None:
        draft = self.begin()
        self.client.post(self.url(f"drafts/{draft.pk}/discard/"))
        self.assertFalse(LimitSetDraft.objects.of(self.room.programme).open().exists())

    def test_own_sets_can_be_chosen_for_a_water(self) -> None:
        self.begin()
        made = self.publish()
        page = self.client.get(self.room.url(f"waters/{self.room.water.pk}/change/"))
        self.assertContains(page, made.set_id)

    def test_for_some_months_only(self) -> None:
        """Judged again by the month of the sample where the programme is."""
        self.begin()
        months = [str(timezone.localtime(timezone.now()).month)]
        self.save_limit("chloride-long", max="1", months=months)
        made = self.publish()
        this = self.room.finished((7, 8), days_ago=3)
        other = self.room.finished((7, 8), days_ago=40)
        LimitAttachment.objects.create(
            programme=self.room.programme, water=self.room.water, limit_set=made.set_id
        )
        judge_waters(self.room.programme, [self.room.water], self.manager)
        self.assertEqual(Result.objects.get(pk=this.pk).outcome_code, "beyond")
        self.assertEqual(Result.objects.get(pk=other.pk).outcome_code, "within")
