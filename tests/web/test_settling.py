"""What would settle a close call, on the result's page."""

from kessa.library.services import in_use
from tests.builders.rooms import RoomTest


class Settling(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def test_named_with_its_time(self) -> None:
        """In use first, then what is shipped; with what each would say; only for a close call."""
        close = self.room.finished((15, 14))
        self.assertEqual(close.outcome_code, "close")
        page = self.client.get(self.room.url(f"results/{close.pk}/"))
        address = self.room.url(f"results/{close.pk}/settling/")
        self.assertContains(page, address)
        found = self.client.get(address).context["settling"]
        self.assertTrue(found.found)
        self.assertTrue(all(number == "" for _, number in found.found))
        self.assertContains(self.client.get(address), "not used here yet")
        first = found.found[-1][0].method
        in_use(self.room.programme, first.id, self.room.monitor)
        again = self.client.get(address)
        self.assertEqual(again.context["settling"].found[0][0].method.id, first.id)
        self.assertContains(again, f"library/{first.id}/{first.version}/")
        self.assertNotContains(again, "not used here yet")
        within = self.room.finished((7, 8))
        page = self.client.get(self.room.url(f"results/{within.pk}/"))
        self.assertNotContains(page, "settling/")
        self.assertNotContains(
            self.client.get(self.room.url(f"results/{within.pk}/settling/")), "What would settle"
        )
