"""What was once recorded comes to the same again: runs of every shipped method, drawn by chance,
with acts out of place, late, taken back and corrected.

A change here is a change of recorded results. Where it is meant: python -m tests.core.walks, and
say in the commit what changed and why.
"""

import json
import unittest
from typing import Any

from kessa_core.methods import shipped, shipped_ids
from tests.core.walks import FOLDER, walked

DISPENSED = ("burette", "digital-titrator", "syringe", "tablet-count")
DISPLAYED = ("photometer", "meter", "sensor")


def read_by(*principles: str) -> list[str]:
    """Shipped methods whose first stage is read so."""
    return [name for name in shipped_ids() if shipped(name).stages[0].reading.by in principles]


class Kept(unittest.TestCase):
    maxDiff = 2000

    def test_drops(self) -> None:
        """Drop counts, one of them a difference of two waters."""
        for method_id in read_by("drop-count"):
            self.same(method_id)

    def test_titrant_from_other_vessels(self) -> None:
        """Burettes, a digital titrator, a syringe, tablets."""
        for method_id in read_by(*DISPENSED):
            self.same(method_id)

    def test_displays(self) -> None:
        """Photometers, meters and sensors."""
        for method_id in read_by(*DISPLAYED):
            self.same(method_id)

    def test_everything_else(self) -> None:
        """Shades, pads, heights, depths, marks, degrees, certificates."""
        others = set(shipped_ids()) - set(read_by("drop-count", *DISPENSED, *DISPLAYED))
        self.assertGreater(len(others), 10)
        for method_id in sorted(others):
            self.same(method_id)

    def same(self, method_id: str) -> None:
        """Every walk of this method."""
        kept = (FOLDER / f"{method_id}.jsonl").read_text("utf-8").splitlines()
        for number, (line, now) in enumerate(zip(kept, walked(method_id), strict=True)):
            was = json.loads(line)
            with self.subTest(method_id, walk=number):
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
