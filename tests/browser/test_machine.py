"""The page's machine and the core's fold every history to the same state."""

import json
import unittest

from kessa_core.runs import conclude, fold
from kessa_core.runs.act_models import ACTS
from tests.browser.base import chromium
from tests.browser.page_machine import (
    EACH,
    as_input,
    folded_by_the_page,
    page_with_machine,
    said_by_the_page,
)
from tests.builders.histories import drawn_histories
from tests.builders.machine_state import digest_of, said_by_the_core, scales_of, state_of_history


class SameMachine(unittest.TestCase):
    maxDiff = None

    @classmethod
    def setUpClass(cls) -> None:
        cls.histories = list(drawn_histories(EACH))
        page = page_with_machine(chromium())
        cls.page_states = folded_by_the_page(page, as_input(cls.histories))
        cls.scales, cls.typed = scales_of(cls.histories)
        cls.page_said = said_by_the_page(page, cls.scales, cls.typed)
        page.close()

    def test_the_whole_state(self) -> None:
        """Every history, in any order of arrival, comes to the same state in both."""
        for history, found in zip(self.histories, self.page_states, strict=True):
            figures = found.pop("figures", None)
            expected = json.loads(json.dumps(state_of_history(history)))
            if digest_of(found) != digest_of(expected):
                with self.subTest(history.method.id, events=len(history.events)):
                    self.assertEqual(found, expected)
            found["figures"] = figures

    def test_figures_that_the_page_looks_up(self) -> None:
        """Where a stage has ended and the sheet has its row, the row's figure is the core's."""
        looked_up = 0
        for history, found in zip(self.histories, self.page_states, strict=True):
            state = fold(history.method, history.events, history.lots)
            outcomes = conclude(history.method, state, history.lots) if found["figures"] else ()
            expected = {one.stage: one.value.figure for one in outcomes if one.value}
            looked_up += len(found["figures"])
            for stage, figure in found["figures"].items():
                with self.subTest(history.method.id, stage=stage):
                    self.assertEqual(figure, expected.get(stage))
        self.assertGreater(looked_up, 60)

    def test_scales_are_said_and_written_alike(self) -> None:
        """Along every scale: the same words, the same display, read where it was written; the same
        place or refusal for whatever is typed."""
        self.assertGreater(len(self.scales), 30)
        said = json.loads(json.dumps(said_by_the_core(self.histories, self.typed)))
        for scale, core, page in zip(self.scales, said, self.page_said, strict=True):
            with self.subTest(unit=scale["unit"], high=scale["high"]):
                self.assertEqual(page, core)

    def test_each_act_has_a_place_and_has_none(self) -> None:
        """The histories hold every act, each at least once where it fits and once where it does
        not; events of both versions, of several devices, twice and taken back."""
        fits, strays = set(), set()
        for history, found in zip(self.histories, self.page_states, strict=True):
            for event in history.events:
                (strays if event.id in found["unfit"] else fits).add(event.act)
        at_the_bench = set(ACTS) - {"enter"}  # typed in from paper: its test has no bench
        self.assertEqual(fits, at_the_bench)
        always = {"begin", "undo", "note", "flag", "take-over", "accept", "reader"}
        self.assertEqual(at_the_bench - strays - always, set())
        every = [history.events for history in self.histories]
        self.assertTrue(any(len(set(events)) < len(events) for events in map(list_of_ids, every)))
        self.assertEqual({event.v for events in every for event in events}, {1, 2})
        self.assertTrue(any(len({event.device for event in events}) == 3 for events in every))


def list_of_ids(events: tuple) -> list[str]:
    return [event.id for event in events]
