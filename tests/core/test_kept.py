"""What was once recorded comes to the same again: runs of every shipped method, drawn by chance,
with acts out of place, late, taken back and corrected.

A change here is a change of recorded results. Where it is meant: python -m tests.core.walks, and
say in the commit what changed and why.
"""

import json
import unittest
from typing import Any

from kessa_core.methods import shipped_ids
from tests.core.walks import FOLDER, walked


class Kept(unittest.TestCase):
    """A test a method; made below."""

    maxDiff = 2000

    def same(self, method_id: str) -> None:
        kept = (FOLDER / f"{method_id}.jsonl").read_text("utf-8").splitlines()
        for number, (line, now) in enumerate(zip(kept, walked(method_id), strict=True)):
            was = json.loads(line)
            with self.subTest(walk=number):
                self.figures(was, now)
                self.assertEqual(was, now)

    def figures(self, was: dict[str, Any], now: dict[str, Any]) -> None:
        """Figures to five digits, so that another machine's last bit is no difference."""
        for a, b in zip(was["outcomes"], now["outcomes"], strict=True):
            mine, others = a.pop("figures", []), b.pop("figures", [])
            self.assertEqual(len(mine), len(others))
            for x, y in zip(mine, others, strict=True):
                self.assertEqual(x is None, y is None)
                if x is not None:
                    self.assertAlmostEqual(x, y, delta=1e-5 * abs(x) + 1e-9)


def _test_of(method_id: str) -> Any:
    def test(self: Kept) -> None:
        self.same(method_id)

    test.__doc__ = f"Runs of {method_id}."
    return test


for _id in shipped_ids():
    setattr(Kept, f"test_{_id.replace('-', '_')}", _test_of(_id))
