"""How hard a password would be to guess, said while it is typed."""

from dataclasses import dataclass

from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from zxcvbn import zxcvbn

from kessa.platform.models import Person

LOOKED_AT = 72
"""Characters that are reckoned with; what comes after them only makes it harder."""
WORDS = (
    "Very easy to guess",
    "Easy to guess",
    "Could be guessed",
    "Hard to guess",
    "Very hard to guess",
)


@dataclass(frozen=True)
class Strength:
    """From 0, very easy to guess, to 4; *words* say it, or why the password would be refused."""

    score: int
    words: str

    @property
    def colour(self) -> str:
        """The class of its bar."""
        return ("is-danger", "is-danger", "is-warning", "is-success", "is-success")[self.score]


def strength_of(password: str, person: Person) -> Strength:
    """The strength of a password for somebody whose names are known.

    A password that would be refused has the score 0, whatever else it is.
    """
    try:
        validate_password(password, person)
    except ValidationError as wrong:
        return Strength(0, " ".join(wrong.messages))
    known = [name for name in (person.username, person.shown_name, "kessa") if name]
    score = int(zxcvbn(password[:LOOKED_AT], user_inputs=known)["score"])
    return Strength(score, WORDS[score])
