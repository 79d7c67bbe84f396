"""Mutated requests to every address: the test of the suite, with more of them.

./kessa bench fuzz [REQUESTS]
"""

import os
import subprocess
import sys

from kessa_launch.state_paths import CLONE

REQUESTS = sys.argv[1] if len(sys.argv) > 1 else "5000"

if __name__ == "__main__":
    command = [str(CLONE / "kessa"), "test", "tests.web.test_mutations"]
    sys.exit(subprocess.run(command, env={**os.environ, "KESSA_REQUESTS": REQUESTS}).returncode)
