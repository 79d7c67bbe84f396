"""./kessa bench NAME: run one of the benchmarks (or list them)."""

import os
import subprocess

from kessa_launch import environment
from kessa_launch.places import CLONE, places
from kessa_launch.postgres import Cluster

FOLDER = CLONE / "benchmarks"


def run(arguments: list[str]) -> int:
    """Run benchmarks/NAME.py with a database folder of its own; without NAME, list them."""
    names = sorted(path.stem for path in FOLDER.glob("*.py") if not path.stem.startswith("_"))
    if not arguments or arguments[0] not in names:
        print("Benchmarks: " + ", ".join(names))
        return 0 if not arguments else 2
    where = places()
    python = environment.ready(where)
    cluster = Cluster(where, "bench")
    try:
        environ = environment.variables(
            cluster.start().variables()
            | {
                "KESSA_SECRET_KEY": where.secrets()["django"],
                "KESSA_STATIC_ROOT": str(where.home / "bench-static"),
                "KESSA_MEDIA_ROOT": str(where.media),
                "KESSA_DEMO": "1",
                "PYTHONPATH": f"{CLONE / 'src'}{os.pathsep}{CLONE}",
                "DJANGO_SETTINGS_MODULE": "kessa.settings",
            }
        )
        command = [str(python), str(FOLDER / f"{arguments[0]}.py"), *arguments[1:]]
        return subprocess.run(command, env=environ, cwd=CLONE).returncode
    finally:
        cluster.stop()
