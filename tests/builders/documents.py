"""Method documents with something changed."""

from typing import Any

import yaml

from kessa_core.methods import Method, load
from kessa_core.methods.catalogue import shipped_text
from kessa_core.methods.load import InvalidDocument


def is_refused(told: dict[str, Any]) -> bool:
    """Whether this document cannot be used."""
    try:
        load(yaml.safe_dump(told, allow_unicode=True))
    except InvalidDocument:
        return True
    return False


def changed(method_id: str, *changes: tuple[str, str]) -> Method:
    """A shipped method with these texts replaced, each once."""
    text = shipped_text(method_id)
    for old, new in changes:
        if old not in text:
            raise AssertionError(f"{old!r} does not stand in {method_id}")
        text = text.replace(old, new, 1)
    return load(text)
