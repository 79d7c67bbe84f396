"""Why something cannot be done, in a sentence for the person who tried."""


class ActionNotAllowed(Exception):
    """The message is shown beside what was typed."""
