"""What is left of a test under way: from the step where the person stands, act by act."""

from unittest import TestCase

from kessa_core.methods import shipped
from kessa_core.methods.catalogue import shipped_ids
from kessa_core.planning.from_method import work_of
from kessa_core.planning.problem import Hands, Standing
from kessa_core.planning.progress import Rest, rest_of
from kessa_core.runs import fold
from tests.builders.runs import Taps
from tests.core.walks import Walk


def hands_s(rest: Rest) -> int:
    return sum(phase.seconds for phase in rest.work.phases if isinstance(phase, Hands))


class WhatIsLeft(TestCase):
    def test_before_the_first_act_all_of_it(self) -> None:
        """As the method alone says."""
        for method_id in shipped_ids():
            method = shipped(method_id)
            with self.subTest(method=method_id):
                rest = rest_of(method, [])
                self.assertEqual(rest.work, work_of(method))
                self.assertEqual((rest.begun, rest.in_hand, rest.clock), (False, False, None))

    def test_blank_first_second(self) -> None:
        """Chloride by drops: what is done leaves the plan; a third comes into it."""
        method = shipped("chloride-drops-15ml")
        taps = Taps(method).before()
        left = [hands_s(rest_of(method, taps.events))]
        for role, drops in (("blank", 1), ("sample", 7), ("sample", 12)):
            taps.count(drops, role)
            left.append(hands_s(rest_of(method, taps.events)))
        self.assertEqual(left, [440, 310, 155, 155])
        taps.count(8)
        self.assertTrue(rest_of(method, taps.events).is_over)

    def test_a_wait_under_way(self) -> None:
        """Its clock began with the act before it."""
        method = shipped("phosphate-strip")
        taps = Taps(method).before()
        stage = method.stages[0]
        for step in stage.steps:
            if step.wait:
                break
            taps.act("tick", step=step.id)
        rest = rest_of(method, taps.events)
        self.assertIsInstance(rest.work.phases[0], Standing)
        self.assertEqual((rest.clock.least_s, rest.clock.most_s), (60, 120))
        self.assertEqual(rest.clock.since, rest.last.timestamp())

    def test_hands_in_the_middle(self) -> None:
        """A step of a row is done and the next is no wait: hands are at it."""
        method = shipped("chloride-drops-15ml")
        taps = Taps(method).before().act("tick", step=method.stages[0].steps[0].id)
        self.assertTrue(rest_of(method, taps.events).in_hand)
        self.assertFalse(rest_of(method, Taps(method).before().events).in_hand)

    def test_whatever_was_done(self) -> None:
        """Histories drawn by chance, some acts out of place: what is left begins at the step where
        the run stands, and nothing is left when it has ended."""
        for method_id in shipped_ids():
            method = shipped(method_id)
            drawn = Walk(method, 3)
            made = drawn.events()
            for upto in range(1, len(made), 6):
                events = made[:upto]
                state = fold(method, events, drawn.lots)
                rest = rest_of(method, events, drawn.lots)
                with self.subTest(method=method_id, upto=upto):
                    step = method.step(state.place.step)
                    if state.finish:
                        self.assertTrue(rest.is_over)
                    elif state.place.spot == "step" and not (step.wait and step.wait.is_long):
                        self.assertEqual(rest.work.steps[0][0].step, state.place.step)
