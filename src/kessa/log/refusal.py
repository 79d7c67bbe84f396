"""Why something cannot be done to a result, in a sentence for the person who tried."""


class Refusal(Exception):
    """The message is shown beside what was typed."""
