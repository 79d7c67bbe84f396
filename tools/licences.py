"""Write docs/LICENCES.md: everything Kessa is built of, with versions and licences."""

import re
import tomllib
from importlib import metadata
from pathlib import Path

from kessa_launch.commands.vendor import PACKAGES
from kessa_launch.state_paths import CLONE

PAGE = CLONE / "docs" / "LICENCES.md"
SHIPPED = {"bulma": "MIT", "htmx.org": "0BSD", "atkinson": "OFL-1.1", "axe-core": "MPL-2.0"}
SHORT = {
    "Apache Software License": "Apache-2.0",
    "MIT License": "MIT",
    "BSD License": "BSD",
    "Mozilla Public License 2.0 (MPL 2.0)": "MPL-2.0",
    "GNU Lesser General Public License v3 (LGPLv3)": "LGPL-3.0",
}
HEAD = """# What Kessa is built of

Made by `./kessa licences` from the lock file, the installed packages' own statements and the list
of shipped files. *dev*: for tests and checks alone, never on a server.

## Python packages

| package | version | licence | |
| --- | --- | --- | --- |
"""


TAIL = """
## From Debian's packages

Python, PostgreSQL (PostgreSQL licence); for the tests Chromium (BSD and others).
"""


def locked() -> dict[str, str]:
    """Name and version of every locked package."""
    text = (CLONE / "requirements.lock").read_text()
    return dict(re.findall(r"^([a-zA-Z0-9_.-]+)==([^ ;\\]+)", text, re.MULTILINE))


def needed_to_serve() -> set[str]:
    """What the project depends on, and what that depends on."""
    wanted = tomllib.loads((CLONE / "pyproject.toml").read_text())["project"]["dependencies"]
    found: set[str] = set()
    names = [_name(one) for one in wanted]
    while names:
        name = names.pop()
        if name in found:
            continue
        found.add(name)
        try:
            asked = metadata.requires(name) or []
        except metadata.PackageNotFoundError:
            continue
        names += [_name(one) for one in asked if "extra ==" not in one or "binary" in one]
    return found


def licence_of(name: str) -> str:
    """What the package itself states, briefly."""
    try:
        about = metadata.metadata(name)
    except metadata.PackageNotFoundError:
        return "not installed on this platform"
    if stated := about.get("License-Expression"):
        return str(stated)
    classes = [
        c.rpartition(" :: ")[2] for c in about.get_all("Classifier") or () if "License ::" in c
    ]
    if classes:
        return ", ".join(SHORT.get(one, one) for one in classes)
    return (about.get("License") or "see the package").splitlines()[0][:60]


def _name(requirement: str) -> str:
    return re.split(r"[^A-Za-z0-9_.-]", requirement, maxsplit=1)[0].lower().replace("_", "-")


def page() -> str:
    """The whole page."""
    serving = needed_to_serve()
    lines = [
        f"| {name} | {version} | {licence_of(name)} | {'' if name.lower() in serving else 'dev'} |"
        for name, version in sorted(locked().items())
    ]
    shipped = [
        "\n## Shipped styles, scripts and fonts\n",
        "| package | version | licence |",
        "| --- | --- | --- |",
    ]
    for package in PACKAGES:
        name, _, version = package.rpartition("@")
        licence = next(word for part, word in SHIPPED.items() if part in name)
        shipped.append(f"| {name} | {version} | {licence} |")
    return HEAD + "\n".join([*lines, *shipped]) + "\n" + TAIL


if __name__ == "__main__":
    Path(PAGE).write_text(page(), "utf-8")
    print(f"{PAGE.relative_to(CLONE)}: {len(locked())} packages")
