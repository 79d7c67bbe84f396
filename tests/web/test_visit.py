"""A visit of several tests from one sample: chosen at once, done from one page, planned again."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import time_machine
from django.test import Client, TestCase

from kessa.flows.receiving import keep
from kessa.flows.testing import add_and_open
from kessa.flows.visit_plan import plan_visit, problem_of_visit, tests_of
from kessa.library.services import in_use
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.visits.models import BenchPlan, Sample, TestAsked, Visit, VisitEvent
from kessa.visits.projection import rebuild, replay
from kessa_core.methods import shipped
from tests.builders.people import Room
from tests.builders.runs import START, Taps

TESTS = ("chloride-drops-15ml", "phosphate-strip", "nitrate-tablets")
AT = datetime(2026, 11, 19, 10, 0, tzinfo=UTC)


class Choosing(TestCase):
    def setUp(self) -> None:
        self.room = Room()
        self.client.force_login(self.room.monitor)

    def begin(self, *methods: str) -> Sample:
        address = self.room.url(f"points/{self.room.point.pk}/several/")
        answer = self.client.post(address, {"method": list(methods)})
        self.assertEqual(answer.status_code, 302)
        return Sample.objects.of(self.room.programme).latest("pk")

    def take(self, sample: Sample) -> str:
        url = self.room.url(f"samples/{sample.pk}")
        self.client.post(f"{url}/safety/", {"go": "yes"})
        self.client.post(f"{url}/context/", {"weather_now": "clear", "weather_before": "dry"})
        return self.client.post(f"{url}/sample/", {"at": "2026-11-19T09:30"}).url

    def test_several_tests_one_sample(self) -> None:
        """Ticked, then safety, field conditions and sample once; every test has its run, and the
        page of the visit follows."""
        sample = self.begin(*TESTS)
        page = self.client.get(self.room.url(f"samples/{sample.pk}/sample/"))
        self.assertContains(page, "start 3 tests")
        address = self.take(sample)
        self.assertEqual(address, self.room.url(f"visits/{sample.visit_id}/"))
        runs = Run.objects.of(self.room.programme).filter(sample=sample).order_by("opened_at", "pk")
        self.assertEqual({run.version.method_id for run in runs}, set(TESTS))
        states = TestAsked.objects.of(self.room.programme).values_list("state", flat=True)
        self.assertEqual(set(states), {"running"})
        page = self.client.get(address)
        for method_id in TESTS:
            self.assertContains(page, shipped(method_id).short)
        self.assertContains(page, "0 of 3 tests done")

    def test_one_alone_goes_to_its_bench(self) -> None:
        """As before."""
        self.assertIn("/bench/", self.take(self.begin(TESTS[0])))

    def test_the_last_visits_tests_are_ticked(self) -> None:
        """So that the same again takes one tap."""
        self.take(self.begin(*TESTS))
        page = self.client.get(self.room.url(f"points/{self.room.point.pk}/several/"))
        ticked = page.content.decode().count("checked")
        self.assertEqual(ticked, len(TESTS))

    def test_nothing_ticked(self) -> None:
        """Is said, and nothing begins; a method that does not exist counts as none."""
        address = self.room.url(f"points/{self.room.point.pk}/several/")
        for methods in ([], ["no-such-method"]):
            answer = self.client.post(address, {"method": methods})
            self.assertContains(answer, "Tick at least one test.", status_code=422)
        self.assertFalse(Sample.objects.of(self.room.programme).exists())

    def test_a_test_is_added(self) -> None:
        """During the visit; one that is asked of it already is not opened twice."""
        sample = self.begin(*TESTS[:2])
        self.take(sample)
        address = self.room.url(f"visits/{sample.visit_id}/add/")
        self.assertContains(self.client.get(address), "Tick what else")
        self.client.post(address, {"method": [TESTS[0], TESTS[2]]})
        runs = Run.objects.of(self.room.programme).filter(sample=sample)
        self.assertEqual(sorted(run.version.method_id for run in runs), sorted(TESTS))
        kinds = VisitEvent.objects.of(self.room.programme).filter(kind="test-added")
        self.assertEqual(kinds.count(), 2)

    def test_the_tests_follow_from_the_events(self) -> None:
        """Replayed and rebuilt they are the same."""
        sample = self.begin(*TESTS)
        self.take(sample)
        before = {test.method_id: test.state for test in sample.tests.all()}
        self.assertEqual(replay(sample), before)
        rebuild(sample)
        self.assertEqual({test.method_id: test.state for test in sample.tests.all()}, before)

    def test_only_who_may(self) -> None:
        """A viewer sees the visit and is led nowhere; a stranger's visit does not exist."""
        sample = self.begin(*TESTS)
        self.take(sample)
        viewer = Client()
        viewer.force_login(self.room.people["viewer"])
        page = viewer.get(self.room.url(f"visits/{sample.visit_id}/"))
        self.assertNotContains(page, "Add tests")
        self.assertEqual(
            viewer.post(self.room.url(f"visits/{sample.visit_id}/add/")).status_code, 403
        )
        other = Room("south-room")
        stranger = Client()
        stranger.force_login(other.monitor)
        for path in (f"visits/{sample.visit_id}/", f"visits/{sample.visit_id}/add/"):
            self.assertEqual(stranger.get(other.url(path)).status_code, 404)


class Planning(TestCase):
    """Phosphate by strip: 50 s of hands, 60 to 120 s, a reading. Chloride: hands alone."""

    def setUp(self) -> None:
        self.room = Room()
        self.enterContext(time_machine.travel(AT, tick=False))
        self.visit = self.room.new_visit(*TESTS)
        self.sample = Sample.objects.of(self.room.programme).get()
        runs = Run.objects.of(self.room.programme)
        self.runs = {run.version.method_id: run for run in runs}

    def steps_to_the_wait(self, method_id: str, at: datetime) -> None:
        """Every step of this test before its first wait, done at this time."""
        method = shipped(method_id)
        taps = Taps(method, run=str(self.runs[method_id].pk))
        taps.later((at - START).total_seconds())
        for step in (*method.before, *method.stages[0].steps_for("sample")):
            if step.wait:
                break
            if step.kind == "check":
                taps.act("answer", step=step.id, answer=step.answers[0].id)
            else:
                taps.act("tick", step=step.id)
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])

    def test_every_test_is_in_the_plan(self) -> None:
        """Each phase of each, over sooner than one after the other."""
        plan = plan_visit(self.visit)
        self.assertEqual(plan.status, "optimal")
        self.assertEqual(
            {one.test.run.pk for one in plan.phases}, {r.pk for r in self.runs.values()}
        )
        alone = sum(one.end - one.start for one in plan.phases)
        self.assertLess(plan.over_at - AT.timestamp(), alone)

    def test_it_stays_until_something_happens(self) -> None:
        """The same plan is read; after an act it is made again, and a wait that runs stays."""
        plan_visit(self.visit)
        first = BenchPlan.objects.of(self.room.programme).get()
        plan_visit(self.visit)
        again = BenchPlan.objects.of(self.room.programme).get()
        self.assertEqual(again.made_at, first.made_at)
        self.steps_to_the_wait("phosphate-strip", AT + timedelta(seconds=40))
        with time_machine.travel(AT + timedelta(seconds=90), tick=False):
            plan = plan_visit(self.visit)
        again = BenchPlan.objects.of(self.room.programme).get()
        self.assertNotEqual(again.made_from, first.made_from)
        wait = next(one for one in plan.phases if not one.hands and one.test.short == _short())
        self.assertLess(wait.start, (AT + timedelta(seconds=90)).timestamp())
        self.assertLessEqual(wait.end - wait.start, 120)

    def test_whoever_is_slower_gets_another_plan(self) -> None:
        """Nothing was done for minutes: what was to begin begins later."""
        plan_visit(self.visit)
        with time_machine.travel(AT + timedelta(minutes=5), tick=False):
            plan = plan_visit(self.visit)
        late = (AT + timedelta(minutes=5)).timestamp()
        self.assertGreaterEqual(min(one.start for one in plan.phases), late - 1)

    def test_a_reading_that_came_too_late_is_said(self) -> None:
        """The window of the strip is over: late by what has passed, and by no more."""
        self.steps_to_the_wait("phosphate-strip", AT)
        with time_machine.travel(AT + timedelta(minutes=10), tick=False):
            plan = plan_visit(self.visit)
        self.assertEqual(plan.status, "late")
        self.assertGreater(sum(one.late_s for one in plan.phases), 300)

    def test_one_is_delayed_so_that_the_other_is_in_time(self) -> None:
        """Two that have to begin at once: whichever is delayed, the other is begun in time; the
        page offers it, says it, and undoes it."""
        self.client.force_login(self.room.monitor)
        visit = self.room.new_visit("alkalinity-titrator", "alkalinity-drops")
        address = self.room.url(f"visits/{visit.pk}/")
        runs = {
            one.version.method_id: one
            for one in Run.objects.of(self.room.programme).of_visit(visit.pk)
        }
        self.enterContext(time_machine.travel(AT + timedelta(minutes=29, seconds=55), tick=False))
        self.assertEqual(plan_visit(visit).status, "late")
        self.assertContains(self.client.get(address), "Delay it, keep the others in time")
        for delayed, other in (("alkalinity-titrator", "alkalinity-drops"),
                               ("alkalinity-drops", "alkalinity-titrator")):  # fmt: skip
            with self.subTest(delayed=delayed):
                url = f"{address}delay/{runs[delayed].pk}/"
                self.client.post(url)
                late = {one.test.run for one in plan_visit(visit).phases if one.late_s}
                self.assertEqual(late, {runs[delayed]})
                page = self.client.get(address)
                self.assertContains(page, f"{shipped(delayed).short} is delayed: about")
                self.assertNotContains(page, f"{shipped(other).short} will be")
                self.client.post(url, {"undo": "yes"})
        self.assertContains(self.client.get(address), "Delay it, keep the others in time")

    def test_an_ended_test_leaves_the_plan(self) -> None:
        """Its result stands on the page of the visit."""
        run = self.runs[TESTS[0]]
        taps = Taps(run=str(run.pk)).before().count(1, "blank").count(7).count(8)
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        plan = plan_visit(Visit.objects.of(self.room.programme).get())
        self.assertNotIn(run.pk, {one.test.run.pk for one in plan.phases})
        self.client.force_login(self.room.monitor)
        page = self.client.get(self.room.url(f"visits/{self.visit.pk}/"))
        figure = Result.objects.get(run=run).current.value.figure
        self.assertContains(page, figure)
        self.assertContains(page, "1 of 3 tests done")

    def test_hands_go_on_with_what_they_are_at(self) -> None:
        """In the middle of a row of steps: that test is first, whatever would be sooner over."""
        run = self.runs[TESTS[0]]
        taps = Taps(run=str(run.pk)).before().count(1, "blank")
        taps.act("tick", step=shipped(TESTS[0]).stages[0].steps_for("sample")[0].id)
        taps.events = [
            replace(event, at=(AT + timedelta(seconds=n)).isoformat())
            for n, event in enumerate(taps.events)
        ]
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        now = AT + timedelta(seconds=60)
        left = [one for one in tests_of(self.visit) if not one.rest.is_over]
        problem = problem_of_visit(left, AT, now)
        self.assertEqual([one.test for one in problem.fixed], [str(run.pk)])

    def test_the_page_is_asked_for_cheaply(self) -> None:
        """Nothing new: no content; the bench of a test knows its others."""
        self.client.force_login(self.room.monitor)
        address = self.room.url(f"visits/{self.visit.pk}/")
        page = self.client.get(address)
        seen = page.context["code"]
        answer = self.client.get(address, {"seen": seen}, headers={"X-Kessa-Poll": "yes"})
        self.assertEqual(answer.status_code, 204)
        run = self.runs[TESTS[1]]
        self.steps_to_the_wait("phosphate-strip", AT)
        other = self.runs[TESTS[0]]
        beside = self.client.get(self.room.url(f"visits/{self.visit.pk}/beside/{other.pk}/"))
        self.assertContains(beside, "data-due")
        self.assertContains(beside, shipped("phosphate-strip").short)
        own = self.client.get(self.room.url(f"visits/{self.visit.pk}/beside/{run.pk}/"))
        self.assertNotContains(own, "data-due")
        bench = self.client.get(self.room.url(f"bench/{run.pk}/"))
        self.assertContains(bench, f"beside/{run.pk}/")

    def test_two_people_share_the_work(self) -> None:
        """Never longer than one alone; the page says whose each piece is, and back to one again."""
        self.client.force_login(self.room.monitor)
        alone = plan_visit(self.visit)
        address = self.room.url(f"visits/{self.visit.pk}/")
        self.client.post(f"{address}people/", {"people": "2"})
        shared = plan_visit(self.visit)
        self.assertEqual({one.person for one in shared.phases if one.hands}, {1, 2})
        self.assertLess(shared.over_at, alone.over_at)
        self.assertContains(self.client.get(address), "Second person, now")
        self.client.post(f"{address}people/", {"people": "1"})
        self.assertNotContains(self.client.get(address), "Second person")

    def test_late_it_is_left_out(self) -> None:
        """What will be late is said with the choice; left out, it says why."""
        self.client.force_login(self.room.monitor)
        address = self.room.url(f"visits/{self.visit.pk}/")
        with time_machine.travel(AT + timedelta(days=60), tick=False):
            self.client.force_login(self.room.monitor)
            said = self.client.get(address).content.decode()
            self.assertIn("Leave it out", said)
            open_ones = [run.pk for run in Run.objects.of(self.room.programme).unfinished()]
            run = next(one for one in open_ones if f"leave/{one}/" in said)
            self.client.post(f"{address}leave/{run}/")
        result = Result.objects.get(run=run)
        self.assertIn("too late", result.current.cause)

    def test_queries_do_not_grow_with_the_tests(self) -> None:
        """Three tests or four: the same number."""
        self.client.force_login(self.room.monitor)
        address = self.room.url(f"visits/{self.visit.pk}/")
        self.client.get(address)
        with self.assertNumQueries(18):
            self.client.get(address)
        in_use(self.room.programme, "hardness-strip", self.room.monitor)
        add_and_open(self.sample, self.room.monitor, "hardness-strip")
        self.client.get(address)
        with self.assertNumQueries(18):
            self.client.get(address)


def _short() -> str:
    return shipped("phosphate-strip").short
