"""Events that were ever accepted still fold: the runs of the first two releases."""

import json
import unittest
from pathlib import Path
from typing import Any

from kessa_core.methods import Method, load
from kessa_core.runs import Event, conclude, fold, read_event

FOLDER = Path(__file__).parents[1] / "data" / "accepted"


def runs() -> list[tuple[dict[str, Any], list[Event]]]:
    """What each run came to when it was recorded, and its events."""
    found: list[tuple[dict[str, Any], list[Event]]] = []
    for line in (FOLDER / "runs.jsonl").read_text("utf-8").splitlines():
        raw = json.loads(line)
        if "release" in raw:
            found.append((raw, []))
        else:
            found[-1][1].append(read_event(raw))
    return found


def document(method_id: str) -> Method:
    """The method of those releases, in the format of today."""
    return load((FOLDER / f"{method_id}.yaml").read_text("utf-8"))


class Accepted(unittest.TestCase):
    def test_every_run_folds_to_what_was_recorded(self) -> None:
        """The same determinations, counts and rejections, the same reported number."""
        every = runs()
        self.assertEqual({was["release"] for was, _ in every}, {"0.1.0", "0.2.0"})
        for was, events in every:
            method = document(was["method"])
            state = fold(method, events)
            outcome = conclude(method, state)[0]
            with self.subTest(release=was["release"], run=events[0].run):
                self.assertEqual(state.finish, was["finish"])
                if was["determinations"] is None:
                    continue
                made = [
                    [d.id, d.count, bool(d.rejected), d.id in outcome.used]
                    for d in state.determinations
                ]
                self.assertEqual(made, was["determinations"])
                number = outcome.value.number if outcome.value else None
                self.assertEqual(number, was["number"])
