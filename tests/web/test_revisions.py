"""Settings keep what they said from a day on, sealed by the entry that changed them."""

from kessa.people.members import change_role, invite, join, withdraw
from kessa.people.services import change_settings, found, make_person
from kessa.places.services import change_point, change_water
from kessa.platform.audit import about
from kessa.platform.models import Membership, SettingRevision
from kessa.platform.revisions import revise_programme
from kessa.platform.verify import find_errors
from tests.builders.people import PASSWORD
from tests.builders.rooms import RoomTest


class Revisions(RoomTest):
    def setUp(self) -> None:
        self.manager = self.room.people["manager"]

    def said(self, setting: object) -> list[dict[str, object]]:
        """What a setting said, the oldest first."""
        kept = SettingRevision.objects.of(self.room.programme).filter(about=about(setting))
        return [one.data for one in kept.order_by("pk")]

    def test_a_member_from_joining_to_leaving(self) -> None:
        """Each role, and the end; the audit seals every one of them."""
        _, code = invite(self.room.programme, self.manager, "viewer")
        invitation = invite(self.room.programme, self.manager, "viewer")[0]
        person = make_person("wren", PASSWORD)
        member = join(invitation, person)
        change_role(member, self.manager, "monitor")
        withdraw(member, self.manager)
        self.assertEqual(
            [(one["role"], one["ended"]) for one in self.said(member)],
            [("viewer", False), ("monitor", False), ("monitor", True)],
        )
        self.assertEqual(list(find_errors(self.room.programme)), [])
        self.assertTrue(code)

    def test_a_programme_and_who_began_it(self) -> None:
        """Its first settings, and the changed ones."""
        person = make_person("robin", PASSWORD)
        programme = found("South room", "south-room", "UTC", person)
        change_settings(programme, person, name="South Room", own_review=True)
        kept = SettingRevision.objects.of(programme)
        named = [one.data["name"] for one in kept.filter(about=about(programme)).order_by("pk")]
        self.assertEqual(named, ["South room", "South Room"])
        member = Membership.objects.get(programme=programme)
        self.assertEqual(kept.get(about=about(member)).data["role"], "manager")
        self.assertEqual(list(find_errors(programme)), [])

    def test_nothing_changed_is_no_revision(self) -> None:
        """The same settings again keep none."""
        before = SettingRevision.objects.count()
        change_settings(self.room.programme, self.manager, name=self.room.programme.name)
        self.assertEqual(SettingRevision.objects.count(), before)

    def test_a_water_and_a_point(self) -> None:
        """Each from the moment it was changed."""
        change_water(self.room.water, self.manager, name="Long Beck")
        change_point(self.room.point, self.manager, place="by the alder")
        self.assertEqual([one["name"] for one in self.said(self.room.water)], ["Beck", "Long Beck"])
        places = [one["place"] for one in self.said(self.room.point)]
        self.assertEqual(places, ["by the oak", "by the alder"])

    def test_a_revision_that_the_audit_does_not_seal_is_found(self) -> None:
        """One that was put in beside the services."""
        revise_programme(self.room.programme, self.manager)
        found = "; ".join(str(error) for error in find_errors(self.room.programme))
        self.assertRegex(found, r"settingrevision:\d+ was never entered in the audit")
