"""What is said of each parameter: complete where it is said, and of things that exist."""

import unittest

from kessa_core.guidance import guidance_on, guided
from kessa_core.guidance.parameters import WATERS
from kessa_core.judging import limit_sets
from kessa_core.methods import shipped, shipped_ids
from kessa_core.quantities import parameters


class Guidance(unittest.TestCase):
    def test_it_speaks_of_what_there_is(self) -> None:
        """Keys, what goes along and kinds of water exist; nothing goes with itself."""
        for key, said in guided().items():
            with self.subTest(key):
                self.assertIn(key, parameters())
                self.assertLessEqual(set(said.along), set(parameters()) - {key})
                self.assertLessEqual(set(said.usual), set(WATERS))
                self.assertTrue(said.why.endswith("."))
                self.assertTrue(all(harm.source for harm in said.harms))

    def test_each_says_where_it_comes_from(self) -> None:
        """By nature or by people, or both."""
        silent = [key for key, said in guided().items() if not said.natural and not said.people]
        self.assertEqual(silent, [])

    def test_the_common_ones_are_there(self) -> None:
        """What a legal limit is for and two or more methods measure."""
        measured = [
            stage.measures.quantity.parameter
            for method_id in shipped_ids()
            for stage in shipped(method_id).stages
        ]
        legal = {
            limit.parameter
            for held in limit_sets().values()
            for limit in held.limits
            if limit.tier == "legal limit"
        }
        common = {key for key in legal if measured.count(key) >= 2}
        self.assertGreater(len(common), 5)
        self.assertEqual(common - set(guided()), set())

    def test_nothing_is_made_up_of_others(self) -> None:
        """A parameter without guidance has none."""
        self.assertIsNone(guidance_on("boron"))
        self.assertIsNone(guidance_on("no-such-thing"))
