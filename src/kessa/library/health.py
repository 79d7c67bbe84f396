"""What can be wrong with the library."""

from collections.abc import Iterator

from kessa_core.errors import CoreError
from kessa_core.methods import shipped, shipped_ids


def methods() -> Iterator[str]:
    """Every shipped method document can be read."""
    for key in shipped_ids():
        try:
            shipped(key)
        except CoreError as error:
            yield f"The shipped method {key} cannot be read: {error}. Fetch the clone again."
