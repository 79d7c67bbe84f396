"""Runs the core tests and writes the seconds of each to KESSA_TOOK, as JSON."""

import json
import os
import sys
import unittest
from pathlib import Path

from tests.runner import Timed


def main() -> int:
    """0 where every test passes."""
    suite = unittest.defaultTestLoader.discover("tests/core", top_level_dir=".")
    result = unittest.TextTestRunner(resultclass=Timed).run(suite)
    Path(os.environ["KESSA_TOOK"]).write_text(json.dumps(result.took))
    return 0 if result.wasSuccessful() else 1


if __name__ == "__main__":
    sys.exit(main())
