"""The one error the launcher shows: a sentence a person can act on."""


class LauncherError(Exception):
    """Something the person at the keyboard has to know or do; shown without a traceback."""
