"""Typed errors: each says what is wrong, where, and the remedy."""


class CoreError(ValueError):
    """Wrong input to the core. The message is a sentence for the person who typed it."""

    def __init__(self, message: str, *, field: str = "", remedy: str = "") -> None:
        super().__init__(f"{message} {remedy}".strip())
        self.message = message
        self.field = field
        self.remedy = remedy


class NoConversion(CoreError):
    """Two bases or units that no rule connects."""


class NotANumber(CoreError):
    """An input that is missing, not a number, or outside what the definition allows."""


class UnknownName(CoreError):
    """A name (parameter, unit, calculation, method, step) that does not exist."""


class BadEvent(CoreError):
    """An event that cannot be read or does not fit the run it names."""
