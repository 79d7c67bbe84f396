"""python -m tools.run MODULE [ARGUMENT ...]: run a script with the application ready."""

import runpy
import sys

import django

if __name__ == "__main__":
    django.setup()
    sys.argv = sys.argv[1:]
    runpy.run_module(sys.argv[0], run_name="__main__", alter_sys=True)
