"""The bench plan: rules, the best of small problems, planning again, what is late, wrong input."""

import io
import json
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from kessa_core.cli.__main__ import main
from kessa_core.planning import Hands, find_plan
from kessa_core.planning.allowance import for_slow_hands
from kessa_core.planning.dispatching import most_urgent_first, one_after_the_other
from kessa_core.planning.plan import late_of
from kessa_core.planning.problem import BadPlanProblem, problem_of, read_problem
from tests.core.plan_rules import best, broken

PIECES = st.sampled_from([[], [], ["photometer"], ["mixing bottle"]])


def hands(seconds: int, holds: list[str] | None = None, **more: Any) -> dict[str, Any]:
    return {"kind": "hands", "seconds": seconds, "holds": holds or []} | more


def wait(least: int, most: int | None = None, holds: list[str] | None = None) -> dict[str, Any]:
    return {"kind": "wait", "at_least_s": least, "at_most_s": most, "holds": holds or []}


def asked(name: str, *phases: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"id": name, "phases": list(phases)} | more


def made(*tests: dict[str, Any], seconds: float = 5, **more: Any) -> dict[str, Any]:
    """The plan as it is written."""
    return find_plan(problem_of({"tests": list(tests)} | more), seconds).as_plain()


def phases(longest: int, most: int, least_wait: int = 0) -> st.SearchStrategy[list[Any]]:
    one_hands = st.builds(
        hands, st.integers(0, longest), PIECES, then_at_once=st.sampled_from([False, False, True])
    )
    windows = st.one_of(st.none(), st.integers(0, longest))
    one_wait = st.builds(
        lambda least, more, holds: wait(least, None if more is None else least + more, holds),
        st.integers(least_wait, longest), windows, PIECES,
    )  # fmt: skip
    return st.lists(st.one_of(one_hands, one_wait), min_size=1, max_size=most)


@st.composite
def problems(draw: Any, tests: int, longest: int, most: int) -> dict[str, Any]:
    drawn = []
    for n in range(draw(st.integers(1, tests))):
        one = asked(f"t{n}", *draw(phases(longest, most)), priority=draw(st.integers(1, 4)))
        one["sampled_s"] = draw(st.sampled_from([0, 0, 0, longest]))
        if draw(st.booleans()):
            one["start_within_s"] = draw(st.integers(0, 3 * longest))
        if n and draw(st.sampled_from([False, False, True])):
            one["after"] = [f"t{draw(st.integers(0, n - 1))}"]
        drawn.append(one)
    return {"people": draw(st.integers(1, 2)), "tests": drawn}


class Rules(TestCase):
    @settings(max_examples=30)
    @given(problems(tests=6, longest=90, most=6))
    def test_no_plan_breaks_a_rule(self, problem: dict[str, Any]) -> None:
        """Whatever is asked; and what is late is said."""
        plan = find_plan(problem_of(problem), 0.3).as_plain()
        self.assertEqual(broken(problem, plan), [])
        self.assertEqual(plan["status"] == "late", plan["lateness_s"] > 0)
        self.assertEqual(sum(one["seconds"] for one in plan["late"]), plan["lateness_s"])

    @settings(max_examples=30)
    @given(problems(tests=2, longest=2, most=3))
    def test_the_best_of_small_problems(self, problem: dict[str, Any]) -> None:
        """Lateness, makespan and order as by trying every plan."""
        plan = find_plan(problem_of(problem), 5).as_plain()
        starts = {one["test"]: one["start_s"] for one in plan["phases"] if one["phase"] == 0}
        order = sum(starts[t["id"]] * 60 // t["priority"] for t in problem["tests"])
        self.assertEqual(
            (plan["lateness_s"], plan["makespan_s"], order), best(problem, plan["makespan_s"] + 1)
        )

    @settings(max_examples=30)
    @given(problems(tests=6, longest=90, most=6), st.integers(0, 400))
    def test_planned_again_from_where_the_hands_are(
        self, problem: dict[str, Any], now: int
    ) -> None:
        """What has begun stays as it is, and nothing new starts in the past; undisturbed, the plan
        is kept."""
        first = find_plan(problem_of(problem), 0.3).as_plain()
        begun = [one for one in first["phases"] if one["start_s"] < now]
        again = problem | {"now_s": now, "fixed": begun, "previous": first}
        plan = find_plan(problem_of(again), 0.3).as_plain()
        self.assertEqual(broken(again, plan), [])
        if first["status"] == "optimal":
            self.assertLessEqual(plan["makespan_s"], max(first["makespan_s"], now))


class Examples(TestCase):
    def test_others_are_done_in_a_wait(self) -> None:
        """10 s of hands, a wait of a minute, and in it another's 40 s."""
        plan = made(asked("a", hands(10), wait(60), hands(5)), asked("b", hands(40)))
        self.assertEqual((plan["status"], plan["makespan_s"], plan["bound_s"]), ("optimal", 75, 75))

    def test_a_window_to_the_second(self) -> None:
        """Both waits end at once and one pair of hands is there: just possible, and not."""
        tests = (asked("a", hands(10), wait(60, 70), hands(20)),
                 asked("b", hands(10), wait(60, 70), hands(20)))  # fmt: skip
        self.assertEqual(made(*tests)["makespan_s"], 110)
        for test in tests:
            test["phases"][0] = hands(0)
            test["phases"][1]["at_most_s"] = 60
            test["start_within_s"] = 10
        plan = made(*tests)
        self.assertEqual((plan["status"], plan["lateness_s"]), ("late", 10))
        self.assertEqual(len(plan["late"]), 1)
        self.assertIn(plan["late"][0]["what"], ("at_most_s", "start_within_s"))

    def test_late_by_a_bottle(self) -> None:
        """The only bottle is held: what starts too late is the one that costs least."""
        bottle = ["bottle"]
        tests = [asked(n, hands(30, bottle), start_within_s=at) for n, at in (("a", 0), ("b", 20))]
        plan = made(*tests, people=2)
        self.assertEqual((plan["lateness_s"], plan["makespan_s"]), (10, 60))
        self.assertEqual(
            plan["late"],
            [{"test": "b", "phase": 0, "what": "start_within_s", "seconds": 10}],
        )

    def test_a_piece_is_held_through_the_gap(self) -> None:
        """Between two phases that hold it nobody else has it; else it is free."""
        bottle = ["bottle"]
        through = asked("a", hands(10, bottle), wait(50, None, bottle), hands(10, bottle))
        free = asked("a", hands(10, bottle), wait(50), hands(10, bottle))
        other = asked("b", hands(20, bottle))
        self.assertEqual(made(through, other)["makespan_s"], 90)
        self.assertEqual(made(free, other)["makespan_s"], 70)

    def test_the_perishable_first(self) -> None:
        """Of equally short plans."""
        plan = made(asked("a", hands(30), priority=5), asked("b", hands(30), priority=1))
        starts = {one["test"]: one["start_s"] for one in plan["phases"]}
        self.assertEqual(starts, {"a": 30, "b": 0})

    def test_two_people_share_the_hands(self) -> None:
        """Reactions take as long as they take; the plan says who, and keeps one at a test."""
        tests = [asked(n, hands(30), wait(60), hands(30)) for n in "abcd"]
        alone, both = made(*tests), made(*tests, people=2)
        self.assertEqual((alone["makespan_s"], both["makespan_s"]), (240, 150))
        self.assertEqual({one["person"] for one in both["phases"]}, {None, 1, 2})
        self.assertEqual(made(asked("a", hands(1), wait(600)), people=2)["makespan_s"], 601)

    def test_a_wait_under_way_goes_on(self) -> None:
        """It began in time, the hands are late: it becomes longer, and in time if it can be."""
        test = asked("a", hands(10), wait(60, 90), hands(20))
        begun = [{"test": "a", "phase": 0, "start_s": 0, "end_s": 10, "person": 1},
                 {"test": "a", "phase": 1, "start_s": 10, "end_s": 70, "person": None}]  # fmt: skip
        for now, ends, over in ((30, 70, 0), (80, 80, 0), (100, 100, 0), (101, 101, 1)):
            with self.subTest(now=now):
                plan = made(test, now_s=now, fixed=begun)
                self.assertEqual(plan["phases"][1]["end_s"], ends)
                self.assertEqual(plan["lateness_s"], over)

    def test_slower_than_planned(self) -> None:
        """Hands that took longer are taken as they were; the wait begins when they ended."""
        begun = [{"test": "a", "phase": 0, "start_s": 0, "end_s": 35, "person": 1}]
        plan = made(asked("a", hands(10), wait(60), hands(5)), now_s=50, fixed=begun)
        self.assertEqual([(p["start_s"], p["end_s"]) for p in plan["phases"]],
                         [(0, 35), (35, 95), (95, 100)])  # fmt: skip

    def test_two_who_already_hold_one_piece(self) -> None:
        """It came so: the plan goes on, and nobody else takes it meanwhile."""
        bottle = ["bottle"]
        tests = [
            asked(n, hands(10, bottle), wait(60, None, bottle), hands(5, bottle)) for n in "ab"
        ]
        begun = [{"test": n, "phase": 0, "start_s": at, "end_s": at + 10, "person": 1}
                 for n, at in (("a", 0), ("b", 10))]  # fmt: skip
        third = asked("c", hands(5, bottle))
        plan = made(*tests, third, now_s=20, fixed=begun)
        self.assertEqual((plan["status"], plan["makespan_s"]), ("optimal", 90))

    def test_what_should_have_followed_at_once(self) -> None:
        """Nobody did: it is late by what has passed, and is done now."""
        test = asked("a", hands(10, then_at_once=True), hands(20))
        begun = [{"test": "a", "phase": 0, "start_s": 0, "end_s": 10, "person": 1}]
        plan = made(test, now_s=25, fixed=begun)
        self.assertEqual(plan["makespan_s"], 45)
        self.assertEqual(
            plan["late"], [{"test": "a", "phase": 0, "what": "then_at_once", "seconds": 15}]
        )

    def test_all_done(self) -> None:
        """Nothing is left to plan; and nothing was asked."""
        begun = [{"test": "a", "phase": 0, "start_s": 0, "end_s": 12, "person": 1}]
        plan = made(asked("a", hands(10)), now_s=40, fixed=begun)
        self.assertEqual((plan["status"], plan["makespan_s"], plan["bound_s"]), ("optimal", 12, 12))
        self.assertEqual(made()["phases"], [])

    def test_nearest_to_the_plan_before(self) -> None:
        """Two orders are as good: the one that stood stays."""
        tests = [asked(n, hands(30), priority=2) for n in "abc"]
        for order in ("abc", "cab", "bca"):
            phases = [{"test": n, "phase": 0, "start_s": at * 30, "end_s": at * 30 + 30}
                      for at, n in enumerate(order)]  # fmt: skip
            plan = made(*tests, previous={"phases": phases})
            starts = {one["test"]: one["start_s"] for one in plan["phases"]}
            self.assertEqual(starts, {n: at * 30 for at, n in enumerate(order)})

    def test_hours_after_its_window(self) -> None:
        """A test that nobody began in time is planned all the same, late by all of it."""
        test = asked("t", hands(6), wait(90), hands(20), start_within_s=60)
        for now in (61, 3_600, 21_240, 400 * 86_400):
            with self.subTest(now=now):
                plan = made(test, now_s=now)
                self.assertEqual((plan["status"], plan["lateness_s"]), ("late", now - 60))
                self.assertEqual(plan["makespan_s"], now + 116)

    def test_a_plan_of_days_ago(self) -> None:
        """A plan that was made long before, or for later, is no hindrance."""
        tests = [asked("a", hands(30)), asked("b", hands(40))]
        previous = made(*tests)
        for now in (0, 3_600, 9 * 86_400):
            plan = made(*tests, now_s=now, previous=previous)
            self.assertEqual(plan["makespan_s"], now + 70)
        later = {
            "phases": [one | {"start_s": one["start_s"] + 86_400} for one in previous["phases"]]
        }
        self.assertEqual(made(*tests, previous=later)["makespan_s"], 70)

    def test_an_allowance_for_slow_hands(self) -> None:
        """Hands that are 30 % slower than their method says break no window that was planned."""
        tests = [asked("a", hands(30), wait(60, 90), hands(20)), asked("b", hands(40))]
        problem = problem_of({"tests": tests})
        slow = for_slow_hands(problem)
        seconds = [[one.seconds for one in test.phases if isinstance(one, Hands)]
                   for test in slow.tests]  # fmt: skip
        self.assertEqual(seconds, [[39, 26], [52]])
        self.assertEqual(slow.tests[0].phases[1], problem.tests[0].phases[1])
        self.assertEqual(find_plan(slow).lateness_s, 0)

    def test_an_incubation_of_a_day(self) -> None:
        """Long waits cost no search."""
        plan = made(asked("a", hands(60), wait(86_400, 100_800), hands(60)), asked("b", hands(90)))
        self.assertEqual((plan["status"], plan["makespan_s"]), ("optimal", 86_520))


class WithoutSearch(TestCase):
    def test_one_after_the_other_shares_nothing(self) -> None:
        """Hands rest in every wait."""
        problem = problem_of({"tests": [asked(n, hands(10), wait(60), hands(5)) for n in "ab"]})
        times = one_after_the_other(problem)
        self.assertEqual(max(end for _, end in times.values()), 150)

    def test_the_most_urgent_first(self) -> None:
        """What is due goes before what is new; without a look ahead a window can break."""
        problem = problem_of(
            {"tests": [asked("a", hands(10), wait(30, 35), hands(5)), asked("b", hands(60))]}
        )
        self.assertEqual(
            [one.seconds for one in late_of(problem, most_urgent_first(problem))], [25]
        )
        self.assertEqual(find_plan(problem).lateness_s, 0)


class WrongInput(TestCase):
    def refused(self, problem: dict[str, Any]) -> str:
        with self.assertRaises(BadPlanProblem) as caught:
            problem_of(problem)
        return str(caught.exception)

    def test_each_says_what_is_wrong(self) -> None:
        """With the place."""
        one = asked("a", hands(10))
        begun = {"test": "a", "phase": 0, "start_s": 5, "end_s": 9}
        for problem, words in (
            ({}, "tests: Field required"),
            ({"tests": [one, one]}, "same id"),
            ({"tests": [asked("a")]}, "tests.0.phases"),
            ({"tests": [asked("a", {"kind": "rest"})]}, "tests.0.phases.0"),
            ({"tests": [asked("a", hands(-1))]}, "tests.0.phases.0.seconds"),
            ({"tests": [asked("a", wait(20, 10))]}, "at_most_s lies below at_least_s"),
            ({"tests": [asked("a", hands(1), after=["b"])]}, "not there"),
            ({"tests": [asked("a", hands(1), after=["a"])]}, "end before it starts"),
            ({"tests": [asked("a", hands(1), typo=1)]}, "tests.0.typo"),
            ({"tests": [one], "people": 0}, "people"),
            ({"tests": [one], "fixed": [begun | {"test": "b"}]}, "not there"),
            ({"tests": [one], "fixed": [begun | {"phase": 1}]}, "not its first ones"),
            ({"tests": [one], "fixed": [begun, begun]}, "twice"),
            ({"tests": [one], "fixed": [begun | {"end_s": 4}]}, "ends before it starts"),
        ):
            with self.subTest(words=words):
                self.assertIn(words, self.refused(problem))

    def test_no_json(self) -> None:
        """Neither a text nor brackets a thousand deep."""
        for text in ("tests: []", "", "[" * 100_000):
            with self.assertRaises(BadPlanProblem):
                read_problem(text)


class Command(TestCase):
    def ran(self, *arguments: str) -> tuple[int, str, str]:
        said, wrong = io.StringIO(), io.StringIO()
        with redirect_stdout(said), redirect_stderr(wrong):
            status = main(["plan", *arguments])
        return status, said.getvalue(), wrong.getvalue()

    def test_json_in_and_out(self) -> None:
        """One object on standard output and nothing else; in words without --json."""
        problem = {"tests": [asked("a", hands(10, label="fill")), asked("b", hands(5))]}
        with TemporaryDirectory() as folder:
            path = Path(folder) / "visit.json"
            path.write_text(json.dumps(problem), "utf-8")
            status, said, _ = self.ran(str(path), "--json", "--seconds", "1")
            self.assertEqual((status, json.loads(said)["makespan_s"]), (0, 15))
            self.assertIn("person 1  a: fill", self.ran(str(path))[1])

    def test_wrong_input(self) -> None:
        """Status 2, a line on standard error, nothing on standard output."""
        for arguments in ([], ["no-such-file.json"], ["a", "b"], ["a", "--seconds", "0"]):
            with self.subTest(arguments=arguments):
                status, said, wrong = self.ran(*arguments)
                self.assertEqual((status, said, wrong.count("\n")), (2, "", 1))
