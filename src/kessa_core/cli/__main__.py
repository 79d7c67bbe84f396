"""Dispatch to one command of the core; wrong input: one line on standard error, status 2."""

import importlib
import sys

from kessa_core.errors import CoreError


def main(arguments: list[str]) -> int:
    """Run kessa_core.cli.NAME with the remaining arguments."""
    command = importlib.import_module(f"kessa_core.cli.{arguments[0]}")
    try:
        status: int = command.main(arguments[1:])
    except (CoreError, OSError, UnicodeError) as error:
        print(f"kessa {arguments[0]}: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 1
    return status


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
