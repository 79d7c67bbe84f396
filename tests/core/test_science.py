"""The table that holds every method against the chemistry is whole and current."""

import unittest

from tools import science

from kessa_core.methods import shipped_ids


class MethodsTable(unittest.TestCase):
    def test_every_method_has_its_entry(self) -> None:
        """Reaction, typical values, what was held: none empty, none of a method that is gone."""
        said = science.held()
        self.assertEqual(sorted(said), sorted(shipped_ids()))
        for key, entry in said.items():
            with self.subTest(method=key):
                self.assertEqual(set(entry), {"reaction", "typical", "held"})
                self.assertTrue(all(entry.values()))

    def test_the_page_is_current(self) -> None:
        self.assertEqual(science.PAGE.read_text("utf-8"), science.page())
