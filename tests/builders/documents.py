"""Method documents with something changed."""

from typing import Any

import yaml

from kessa_core.methods import load
from kessa_core.methods.load import BadDocument


def is_refused(told: dict[str, Any]) -> bool:
    """Whether this document cannot be used."""
    try:
        load(yaml.safe_dump(told, allow_unicode=True))
    except BadDocument:
        return True
    return False
