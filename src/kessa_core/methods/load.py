"""Text -> Method."""

from kessa_core.documents.load import InvalidDocument, Problem, read
from kessa_core.methods.document import Method

__all__ = ["InvalidDocument", "Problem", "load"]


def load(text: str) -> Method:
    """The method in this YAML *text*.

    Raises BadDocument naming, for each problem, line, path, what is wrong and what is allowed.
    """
    return read(text, Method)
