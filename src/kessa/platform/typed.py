"""What people type, made fit to keep."""


def one_line(typed: str, most: int) -> str:
    """One line of what was typed, without the character that no store holds."""
    return " ".join(typed.replace("\x00", "").split())[:most]
