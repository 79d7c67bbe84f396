"""A sample of what ./kessa bench mutation does: the wrong numbers that were once here, put back one
at a time, and the test that has to fail then."""

import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

CLONE = Path(__file__).parents[2]
EDGES, APART, ASKED = (f"tests.core.test_{name}" for name in ("edges", "differences", "doubtful"))
CHANGES = (
    # degrees lose their offset
    ("quantities/units.py", "(at[1] - at[0]) / 100, shift", "at[1] / 100, 0.0",
     f"{EDGES}.Units.test_degrees_fahrenheit"),
    # a burette's overshoot counts twice
    ("readings/dispensed.py", "hypot(found.steps, eye, ROUNDING)",
     "hypot(found.steps, eye, eye, ROUNDING)", f"{APART}.Sizes.test_a_burettes_scatter"),
    # an impossible pair has an interval without a width
    ("runs/joint.py", "least = upper - middle", "least = 0.0",
     f"{APART}.Differences.test_an_impossible_pair_is_a_bound_with_a_width_and_a_flag"),
    # exactly one minute is never late
    ("methods/steps.py", 'self.rule in ("exactly", "at-most", "between")',
     'self.rule in ("at-most", "between")',
     f"{ASKED}.Waits.test_every_wait_is_judged_early_and_late"),
    # readings that are not rare at a limit are called within it
    ("influences/__init__.py", "FAVOURABLE = 0.045", "FAVOURABLE = 0.12",
     "tests.core.test_judging.Favourable.test_no_count_is_called_within_too_often"),
)  # fmt: skip


class Sample(unittest.TestCase):
    def test_each_wrong_number_put_back_is_caught(self) -> None:
        """Each test passes as things stand, and fails with the change."""
        with ThreadPoolExecutor(2) as pool:
            for (path, was, becomes, name), fell in zip(CHANGES, pool.map(self.caught, CHANGES),
                                                        strict=True):  # fmt: skip
                with self.subTest(path=path, was=was, becomes=becomes):
                    self.assertTrue(fell, name)

    def caught(self, change: tuple[str, str, str, str]) -> bool:
        path, was, becomes, name = change
        with tempfile.TemporaryDirectory() as folder:
            copy = Path(folder) / "kessa_core"
            shutil.copytree(CLONE / "src" / "kessa_core", copy)
            source = (copy / path).read_text("utf-8")
            self.assertEqual(source.count(was), 1, was)
            (copy / path).write_text(source.replace(was, becomes), "utf-8")
            environ = {**os.environ, "PYTHONPATH": f"{folder}{os.pathsep}{CLONE}"}
            ended = subprocess.run(
                [sys.executable, "-m", "unittest", name],
                cwd=folder, env=environ, capture_output=True, text=True,
            )  # fmt: skip
        return ended.returncode != 0 and "FAILED (failures=" in ended.stderr
