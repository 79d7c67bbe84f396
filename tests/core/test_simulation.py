"""Virtual hands: what they do folds to what they saw, and the truth comes back."""

import unittest
from datetime import UTC, datetime

import numpy as np

from kessa_core.readings.reading import Count
from kessa_core.runs import fold
from kessa_core.runs.events import read_event
from kessa_core.simulation.bottle import SharedErrors
from kessa_core.simulation.hands import AnalystProfile, Session, StageSession, look, work
from kessa_core.simulation.script import events
from tests.builders.runs import big, outcome_of, reader

START = datetime(2026, 3, 2, 9, 52, tzinfo=UTC)


def one(failed: tuple[Count, ...], blank: Count, samples: tuple[Count, ...]) -> Session:
    return Session((StageSession(failed, blank, samples=samples),))


class Script(unittest.TestCase):
    def test_events_fold_to_the_session(self) -> None:
        """Every determination, in every option, failed blanks included."""
        rng = np.random.default_rng(3)
        for session in (
            one((Count(4),), Count(2), (Count(7), Count(8, "doubt"))),
            one((), Count(1), (Count(7), Count(12), Count(8, "backed-off"))),
            one((), Count(1), (Count(24, "beyond"),)),
            *(
                work(big(), truth, rng, AnalystProfile(doubt=0.2, keen=0.1))
                for truth in (0, 20, 90, 260)
            ),
        ):
            state = fold(big(), events(big(), session, START, rng))
            with self.subTest(session=session):
                self.assertEqual(state.ignored, [])
                self.assertEqual(tuple(d.seen for d in state.stage.samples), session.first.samples)
                self.assertEqual([d.seen for d in state.stage.blanks], [session.first.blank])
                self.assertTrue(state.finish)

    def test_events_are_what_the_wire_carries(self) -> None:
        """Each simulated event passes the reader and comes back the same."""
        rng = np.random.default_rng(4)
        for event in events(big(), work(big(), 50, rng), START, rng):
            self.assertEqual(read_event(event.as_json()), event)

    def test_the_same_seed_draws_the_same_runs(self) -> None:
        """A seed is a promise."""
        drawn = [work(big(), 60, np.random.default_rng(9)) for _ in range(2)]
        self.assertEqual(*drawn)


class Hands(unittest.TestCase):
    def test_reported_values_gather_around_the_truth(self) -> None:
        """Over 400 runs the mean lies within a drop above the truth: the last drop and the
        colour's own need are in the count."""
        rng = np.random.default_rng(5)
        truth, numbers = 60.0, []
        for _ in range(400):
            outcome = outcome_of(
                big(), fold(big(), events(big(), work(big(), truth, rng), START, rng))
            )
            if outcome.value:
                numbers.append(outcome.value.number)
        self.assertTrue(0 < np.mean(numbers) - truth < 1.5 * 8.3)

    def test_a_dirty_blank_fails_and_a_clean_one_follows(self) -> None:
        """40 mg/L in the first blank takes about five drops."""
        session = work(big(), 50, np.random.default_rng(6), dirty=40.0)
        self.assertGreater(session.first.failed_blanks[0].n, 2)
        self.assertLessEqual(session.first.blank.n, 2)

    def test_slips_are_wild(self) -> None:
        """With every determination a slip the counts spread over the whole range."""
        rng = np.random.default_rng(8)
        seen = {
            look(reader(), 60, SharedErrors(0, 0.5), rng, AnalystProfile(slip=1)).n
            for _ in range(300)
        }
        self.assertGreater(len(seen), 15)
