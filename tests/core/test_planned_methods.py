"""A method as a test to plan: its phases and windows, and that every shipped one can be planned."""

from unittest import TestCase

from kessa_core.methods import Method, shipped
from kessa_core.methods.catalogue import shipped_ids
from kessa_core.methods.steps import Wait
from kessa_core.planning import PlanProblem, find_plan
from kessa_core.planning.from_method import UNTIL_S, window_of, work_of
from kessa_core.planning.problem import Hands, Standing


def told(method: Method) -> list[str]:
    """Hands as seconds, waits as w and their window."""
    return [
        str(one.seconds) if isinstance(one, Hands) else f"w{one.at_least_s}-{one.at_most_s}"
        for one in work_of(method).phases
    ]


class Works(TestCase):
    def test_what_each_comes_to(self) -> None:
        """Hands are joined up to the next wait and the next measurement."""
        for method, phases in (
            ("chloride-drops-15ml", ["140", "155", "155"]),
            ("phosphate-strip", ["50", "w60-120", "15"]),
            ("phosphate-photometer", ["70", "w120-130", "15", "60", "w120-130", "15"]),
            ("oxygen-ampoule", ["47", "w108-118", "15"]),
            ("coliforms", ["80"]),
        ):
            with self.subTest(method=method):
                self.assertEqual(told(shipped(method)), phases)

    def test_its_sample(self) -> None:
        """How soon it has to begin, and how perishable it is."""
        method = shipped("oxygen-syringe")
        test = work_of(method).as_test("here", method, sampled_s=40)
        self.assertEqual((test.priority, test.start_within_s, test.latest_start), (1, 120, 160))

    def test_single_equipment(self) -> None:
        """The photometer is held from the zero to the reading of this kit."""
        held = [one.holds for one in work_of(shipped("silica-photometer")).phases]
        self.assertEqual([bool(one) for one in held], [True, False, False, False, True])

    def test_shaking_keeps_hands_busy(self) -> None:
        """Three minutes of it belong to the hands, the rest after it does not."""
        first, rest = work_of(shipped("nitrate-ampoule")).phases[:2]
        self.assertIsInstance(rest, Standing)
        self.assertGreaterEqual(first.seconds, 180)

    def test_windows(self) -> None:
        """By the rule of a wait and whether being late matters."""
        for given, window in (
            ({"rule": "exactly", "seconds": 60}, (60, 70)),
            ({"rule": "exactly", "seconds": 60, "late": "fine"}, (60, None)),
            ({"rule": "at-least", "seconds": 60}, (60, None)),
            ({"rule": "at-most", "seconds": 60}, (0, 60)),
            ({"rule": "between", "seconds": 60, "to_seconds": 90}, (60, 90)),
            ({"rule": "until", "until": "It is clear."}, (UNTIL_S, None)),
            ({"rule": "until", "until": "It is clear.", "seconds": 300}, (300, None)),
            ({"rule": "instrument", "seconds": 120}, (120, None)),
            ({"rule": "typed"}, (UNTIL_S, None)),
        ):
            with self.subTest(given=given):
                self.assertEqual(window_of(Wait.model_validate(given)), window)

    def test_every_shipped_method(self) -> None:
        """Each can be planned alone without being late, and every step has its place once."""
        for method_id in shipped_ids():
            method = shipped(method_id)
            with self.subTest(method=method_id):
                work = work_of(method)
                steps = [once for phase in work.steps for once in phase]
                self.assertEqual(len(set(steps)), len(steps))
                self.assertEqual(len(work.steps), len(work.phases))
                known = {step.id for step in method.every_step}
                self.assertLessEqual({once.step for once in steps}, known)
                plan = find_plan(PlanProblem(tests=(work.as_test("one", method),)), 0.5)
                self.assertEqual((plan.status, plan.lateness_s), ("optimal", 0))
