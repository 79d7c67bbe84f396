"""Texts on screens and in methods use the words of docs/WORDS.md."""

import re
import unittest
from collections.abc import Iterable
from pathlib import Path

from tests.builders.texts import METHODS, SCREENS, Text, every_text

WORDS = Path(__file__).parents[2] / "docs" / "WORDS.md"
ROW = re.compile(r"^\| ([a-z][a-z ,’]*) \| ([^|]+) \| (screens|methods|both) \|$", re.M)
ONE_WITH_PLURAL = re.compile(
    r"\b1 (?:[a-z]+ )?(?:drops|results|acts|actions|tests|tablets|minutes)\b"
)


def rules() -> list[tuple[re.Pattern[str], str, str]]:
    """What is not said, as a pattern; what is said instead; and where."""
    found = ROW.findall(WORDS.read_text("utf-8").partition("## What is not said")[2])
    return [(re.compile(rf"\b{words}\b", re.I), use, scope) for words, use, scope in found]


def wrong_words(texts: Iterable[Text]) -> list[str]:
    """Every text with a word that is not said there, and what to say."""
    known = rules()
    return [
        f"{where}: “{words}” says {pattern.pattern}; say {use}"
        for scope, where, words in texts
        for pattern, use, wanted in known
        if wanted in (scope, "both") and pattern.search(words)
    ]


class Words(unittest.TestCase):
    maxDiff = None

    def test_the_table_is_read(self) -> None:
        self.assertGreater(len(rules()), 35)
        self.assertGreater(len(every_text()), 2_000)

    def test_no_text_uses_them(self) -> None:
        self.assertEqual(wrong_words(every_text()), [])

    def test_planted_texts_are_found(self) -> None:
        """Twenty, each in its scope; ordinary verbs in method steps are free."""
        for scope, words in (
            (SCREENS, "Safe: go on"), (SCREENS, "The test went on elsewhere"),
            (SCREENS, "Take back the last drop"), (METHODS, "The blank is taken off"),
            (SCREENS, "Put right what is wrong"), (METHODS, "Read the scale anew"),
            (SCREENS, "3 acts kept here"), (SCREENS, "Both are kept."), (SCREENS, "Being kept"),
            (SCREENS, "Strike this reading"), (SCREENS, "struck 3 March"),
            (SCREENS, "Which determination"), (SCREENS, "This value is beyond the limit"),
            (METHODS, "Use a finer kit"), (SCREENS, "The truth lies in 3–5"),
            (SCREENS, "Use a spare code"), (SCREENS, "Begin a programme"), (SCREENS, "Note a lot"),
            (SCREENS, "Waters"), (METHODS, "Chromate is poisonous. Gloves on."),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertTrue(wrong_words([(scope, "here", words)]))
        for words in (
            "The sample keeps for hours",
            "Go on turning until it stays",
            "Hold it still",
        ):
            with self.subTest(words):
                self.assertEqual(wrong_words([(METHODS, "here", words)]), [])

    def test_counts_agree_with_their_nouns(self) -> None:
        """No text says "1 drops"."""
        wrong = [words for _, _, words in every_text() if ONE_WITH_PLURAL.search(words)]
        self.assertEqual(wrong, [])
