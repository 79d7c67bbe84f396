"""The number of a row as an address or a form names it."""


def row_number(text: str) -> int | None:
    """The number; None for what cannot be one."""
    return int(text) if text.isdecimal() and len(text) < 16 else None
