"""Dispatch: ./kessa COMMAND [ARGUMENT ...]."""

import importlib
import sys

from kessa_launch.errors import LauncherError

COMMANDS = {
    "demo": "everything from a bare machine to a page with demo data",
    "test": "all tests and checks, or a part: lint, core, web, browser",
    "lint": "style, types and import contracts",
    "serve": "the production server; settings from the environment",
    "calc": "a calculation of the core: ./kessa calc --list",
    "run": "compute results from an event file and a method",
    "methods": "list, show, check or simulate method documents",
    "limits": "list, show, check or compare limit sets",
    "plan": "who does what when, for the tests of a visit",
    "backup": "write database and photographs to one file, verified",
    "restore": "make a backup the database; what was there is kept aside",
    "check": "check this installation and suggest fixes",
    "audit": "verify the audit trail, or an exported file",
    "manage": "Django's management commands on the demo's database",
    "shots": "take the pictures in docs/screenshots",
    "bench": "run a benchmark",
    "licences": "write the list of packages, versions and licences",
    "lock": "rebuild the lock file",
    "vendor": "fetch the shipped styles, scripts and fonts again",
}
CORE = ("calc", "run", "methods", "limits", "plan")
OWN_HELP = (*CORE, "manage")
"""Commands that print their own help."""


def main(arguments: list[str]) -> int:
    """Run the named command; trouble is one plain message and status 1."""
    if not arguments or arguments[0] in ("-h", "--help", "help"):
        print("./kessa COMMAND")
        for name, what in COMMANDS.items():
            print(f"  {name:14}{what}")
        return 0 if arguments else 2
    name, rest = arguments[0], arguments[1:]
    if name not in COMMANDS:
        print(f"kessa: no command {name!r}. ./kessa --help lists them.", file=sys.stderr)
        return 2
    if name not in OWN_HELP and {"-h", "--help"} & set(rest):
        return _help(name)
    if name in CORE:
        name, rest = "core", arguments
    try:
        command = importlib.import_module(f"kessa_launch.commands.{name.replace('-', '_')}")
        status: int = command.run(rest)
    except LauncherError as trouble:
        print(f"kessa: {trouble}", file=sys.stderr)
        return 1
    return status


def _help(name: str) -> int:
    """What a command does and takes, from its own module."""
    command = importlib.import_module(f"kessa_launch.commands.{name.replace('-', '_')}")
    about = [text.strip() for text in (command.__doc__, command.run.__doc__) if text]
    print("\n\n".join(about))
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
