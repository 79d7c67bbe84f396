"""Review: the queue, four eyes, reasons, and what a changed result does to a decision."""

from django.utils import timezone

from kessa.flows.correcting import correct_reading
from kessa.flows.receiving import REVIEWED, keep
from kessa.flows.reviewing import answer, decide
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Membership
from kessa.results.models import Result, Review
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps


class Deciding(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.reviewer, cls.monitor = cls.room.people["reviewer"], cls.room.monitor
        cls.result = cls.room.finished()

    def decide(self, decision: str, reason: str = "", by=None) -> Review:
        self.result.refresh_from_db()
        by = by or self.reviewer
        return decide(self.result, by, decision, reason, self.result.current_id)

    def state(self) -> tuple[str, str]:
        self.result.refresh_from_db()
        return self.result.status, self.result.waits_for

    def test_each_decision(self) -> None:
        """(decision) -> (status, whom it waits for); return and reject need a reason."""
        self.assertEqual(self.state(), ("provisional", "reviewer"))
        for decision, reason, state in (
            ("return", "which bottle?", ("provisional", "analyst")),
            ("reject", "wrong point", ("rejected", "")),
            ("accept", "", ("reviewed", "")),
        ):
            with self.subTest(decision=decision):
                if reason:
                    with self.assertRaisesMessage(ActionNotAllowed, "Enter a reason"):
                        self.decide(decision)
                self.decide(decision, reason)
                self.assertEqual(self.state(), state)

    def test_every_act_is_fetched_when_it_is_opened(self) -> None:
        """The page says where; it has each act, the drops gathered."""
        self.client.force_login(self.reviewer)
        address = self.room.url(f"results/{self.result.pk}/acts/")
        page = self.client.get(self.room.url("review/"))
        self.assertContains(page, f'hx-get="{address}"')
        self.assertNotContains(page, '<ol class="acts">')
        self.assertContains(self.client.get(address), "7 ×")

    def test_the_analyst_answers_what_came_back(self) -> None:
        """Only the analyst, only with words; then it waits for the reviewer again."""
        with self.assertRaisesMessage(ActionNotAllowed, "is not waiting"):
            answer(self.result, self.monitor, "too early")
        self.decide("return", "which bottle?")
        with self.assertRaisesMessage(ActionNotAllowed, "Only the person who tested"):
            answer(self.result, self.reviewer, "the blue one")
        answer(self.result, self.monitor, "the blue one")
        self.assertEqual(self.state(), ("provisional", "reviewer"))

    def test_nobody_accepts_the_own_result(self) -> None:
        """Not who tested, and not who corrected; rejecting one's own is free."""
        Membership.objects.filter(person=self.monitor).update(role="reviewer")
        with self.assertRaisesMessage(ActionNotAllowed, "You tested or corrected"):
            self.decide("accept", by=self.monitor)
        correct_reading(self.result, self.reviewer, "first-1", 8, "plain", "misread")
        with self.assertRaisesMessage(ActionNotAllowed, "You tested or corrected"):
            self.decide("accept")
        self.decide("accept", by=self.room.people["manager"])
        self.decide("reject", "spoiled", by=self.monitor)

    def test_a_programme_of_one_may_switch_that_off(self) -> None:
        """It holds while one person works there, and ends with the second."""
        standing = Membership.objects.filter(programme=self.room.programme)
        standing.exclude(person=self.monitor).exclude(role="viewer").update(ended_at=timezone.now())
        standing.filter(person=self.monitor).update(role="manager")
        with self.assertRaisesMessage(ActionNotAllowed, "You tested or corrected"):
            self.decide("accept", by=self.monitor)
        self.room.programme.own_review = True
        self.room.programme.save()
        self.decide("accept", by=self.monitor)
        standing.filter(person=self.reviewer).update(ended_at=None)
        with self.assertRaisesMessage(ActionNotAllowed, "You tested or corrected"):
            self.decide("accept", by=self.monitor)

    def test_a_reviewed_result_that_changes_goes_back(self) -> None:
        """Corrected: the decision is kept and no longer holds. The bench takes it up again only
        while it is not decided."""
        self.decide("accept")
        correct_reading(self.result, self.monitor, "first-1", 8, "plain", "misread")
        self.assertEqual(self.state(), ("provisional", "reviewer"))
        self.assertEqual(self.result.reviews.first().decision, "reopened")
        self.assertEqual(self.result.reviews.first().reason, "misread")
        taps = Taps(run=str(self.result.run_id)).before().count(1, "blank").count(7).count(8)
        last = taps.events[-1].id
        undo = taps.act("note", text="x").act("undo", event=last).events[-1].as_json()
        keep(self.room.programme, self.monitor, [undo | {"lamport": 999}])
        self.assertEqual(self.state(), ("awaiting", ""))
        with self.assertRaisesMessage(ActionNotAllowed, "in progress"):
            self.decide("accept", by=self.room.people["manager"])

    def test_a_reviewed_test_is_not_taken_up_again_at_the_bench(self) -> None:
        self.decide("accept")
        taps = Taps(run=str(self.result.run_id)).before().count(1, "blank").count(7).count(8)
        undo = taps.act("undo", event=taps.events[-1].id).events[-1].as_json()
        received = keep(self.room.programme, self.monitor, [undo | {"lamport": 999}])
        self.assertEqual(received.refused[0]["reason"], REVIEWED)
        self.assertEqual(self.state(), ("reviewed", ""))

    def test_a_decision_about_something_else_than_was_shown_is_refused(self) -> None:
        """The page's evaluation is no longer the current one."""
        shown = self.result.current_id
        correct_reading(self.result, self.monitor, "first-1", 8, "plain", "misread")
        with self.assertRaisesMessage(ActionNotAllowed, "has changed since"):
            decide(self.result, self.reviewer, "accept", "", shown)


class Queue(RoomTest):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.old = cls.room.finished((13, 13), days_ago=4)
        cls.new = cls.room.finished((7, 12, 8), days_ago=1)

    def setUp(self) -> None:
        self.client.force_login(self.room.people["reviewer"])

    def post(self, result: Result, **data):
        address = self.room.url(f"review/{result.pk}/")
        last = Review.objects.filter(result=result).order_by("-pk").first()
        seen = {"evaluation": result.current_id, "last": last.pk if last else 0}
        return self.client.post(address, {**seen, **data})

    def test_the_oldest_stands_first_with_its_evidence(self) -> None:
        """Gauge, working, determinations, context and the others beside it."""
        page = self.client.get(self.room.url("review/"))
        self.assertEqual(page.context["result"], self.old)
        day = f"{self.old.sampled_at:%d %b %Y}".lstrip("0")
        for part in (
            "13, 13 drops: (mean 13 − ½)",
            "2 waiting",
            'class="gauge',
            f">{day} ·",
            "Chloride, at the ford",
            "mg/L as Cl</small>",
        ):
            self.assertContains(page, part)

    def test_deciding_leads_to_the_next_and_to_an_empty_queue(self) -> None:
        """Accept, then reject with a reason; at the end the page says so."""
        answer = self.post(self.old, decision="accept")
        self.assertEqual(answer.headers["Location"], self.room.url(f"review/?result={self.new.pk}"))
        done = self.post(self.new, decision="reject", reason="wrong bottle")
        page = self.client.get(done.headers["Location"])
        self.assertContains(page, "No results to review")

    def test_what_was_typed_stays_when_it_is_refused(self) -> None:
        """A stale page: the sentence, and the reason still in its field."""
        answer = self.client.post(
            self.room.url(f"review/{self.old.pk}/"),
            {"evaluation": 1, "last": 0, "decision": "reject", "reason": "wrong bottle"},
        )
        self.assertContains(answer, "has changed since", status_code=422)
        self.assertContains(answer, 'value="wrong bottle"', status_code=422)
        address = answer.headers["HX-Push-Url"]
        self.assertContains(self.client.get(address), self.old.point.name)

    def test_ones_own_result_cannot_be_accepted_from_the_page(self) -> None:
        """The button is closed and says why."""
        Membership.objects.filter(person=self.room.monitor).update(role="reviewer")
        self.client.force_login(self.room.monitor)
        self.assertContains(
            self.client.get(self.room.url("review/")), "Another person must accept it"
        )

    def test_the_analyst_sees_what_came_back_and_answers(self) -> None:
        """On Today and on the result's page."""
        self.post(self.old, decision="return", reason="which bottle?")
        self.client.force_login(self.room.monitor)
        self.assertContains(self.client.get(self.room.url("today/")), "Returned to you")
        page = self.client.get(self.room.url(f"results/{self.old.pk}/"))
        self.assertContains(page, "which bottle?")
        address = self.room.url(f"results/{self.old.pk}/answer/")
        self.assertEqual(self.client.post(address, {"answer": " "}).status_code, 422)
        self.client.post(address, {"answer": "the blue one"})
        self.old.refresh_from_db()
        self.assertEqual(self.old.waits_for, "reviewer")
