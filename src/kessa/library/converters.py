"""A method's number in an address: 1, or 1.2 for a programme's own choices."""


class Number:
    """Version, and the set of own choices after a point."""

    regex = r"[0-9]{1,4}(?:\.[0-9]{1,4})?"

    def to_python(self, value: str) -> str:
        return value

    def to_url(self, value: object) -> str:
        return str(value)
