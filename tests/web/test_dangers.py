"""What to look at before sampling: of every kind of water, each a reason to stop."""

import unittest

from kessa.places.models import Water
from kessa.visits.dangers import dangers_at, every_danger
from kessa.visits.wording import reasons_at


class Dangers(unittest.TestCase):
    def test_every_water_has_its_own(self) -> None:
        """At least one, each a sentence; and each is offered as the reason, once."""
        for kind in Water.Kind:
            with self.subTest(kind):
                found, reasons = dangers_at(kind), reasons_at(kind)
                self.assertTrue(found)
                self.assertLessEqual({one.reason for one in found}, set(reasons))
                self.assertEqual(len(reasons), len(set(reasons)))
                self.assertIn("no access", reasons)

    def test_each_is_at_a_water_that_there_is(self) -> None:
        for one in every_danger():
            with self.subTest(one.key):
                self.assertLessEqual(set(one.waters), set(Water.Kind.values))
                self.assertTrue(one.look.endswith("."))
                self.assertLess(len(one.reason), 40)

    def test_what_does_not_belong(self) -> None:
        """No closed ice on running water, no bank at a boiler."""
        self.assertNotIn("ice", [one.key for one in dangers_at("stream")])
        self.assertEqual([one for one in dangers_at("boiler") if "bank" in one.look], [])
