"""The methods that ship with Kessa: one YAML file each in shipped/."""

from functools import cache
from importlib import resources

from kessa_core.errors import UnknownName
from kessa_core.methods.document import Method
from kessa_core.methods.load import load

_FOLDER = resources.files("kessa_core.methods").joinpath("shipped")


@cache
def shipped_ids() -> tuple[str, ...]:
    """The ids of all shipped methods, sorted."""
    names = (entry.name for entry in _FOLDER.iterdir())
    return tuple(sorted(name.removesuffix(".yaml") for name in names if name.endswith(".yaml")))


def shipped_text(method_id: str) -> str:
    """The document of a shipped method as written.

    Raises UnknownName with the ids that exist.
    """
    if method_id not in shipped_ids():
        known = ", ".join(shipped_ids())
        raise UnknownName(f"There is no method {method_id!r}.", remedy=f"Shipped: {known}.")
    return _FOLDER.joinpath(f"{method_id}.yaml").read_text("utf-8")


@cache
def shipped(method_id: str) -> Method:
    """The shipped method with this id; raises UnknownName as shipped_text()."""
    return load(shipped_text(method_id))
