"""Codes that people read, print and type: made once, kept as a hash alone."""

import hashlib
import secrets

LETTERS = "23456789ABCDEFGHJKLMNPQRSTUVWXYZ"
GROUPS, SIZE = 3, 4


def make() -> str:
    """A fresh code of twelve letters and digits, in groups: about 59 bits."""
    letters = [secrets.choice(LETTERS) for _ in range(GROUPS * SIZE)]
    return "-".join("".join(letters[i : i + SIZE]) for i in range(0, len(letters), SIZE))


def hash_of(typed: str) -> str:
    """The hash of a code however it was typed: small letters, spaces, no hyphens."""
    plain = "".join(letter for letter in typed.upper() if letter.isalnum())[:64]
    return hashlib.sha256(plain.encode()).hexdigest()
