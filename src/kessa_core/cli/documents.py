"""A method named on the command line: the id of a shipped one, or a file."""

from pathlib import Path

from kessa_core.methods import Method, load, shipped, shipped_ids


def find_method(name: str) -> Method:
    """The method; raises UnknownName or BadDocument."""
    path = Path(name)
    if name not in shipped_ids() and path.is_file():
        return load(path.read_text("utf-8"))
    return shipped(name)
