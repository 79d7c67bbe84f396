"""People: inviting, joining, roles, leaving, forgotten passwords, devices, one-time codes."""

import re

from django.contrib.sessions.models import Session
from django.test import Client, TestCase
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice

from kessa.people.members import change_role, invitation_of, invite, join, withdraw
from kessa.people.models import DeviceSession, Invitation
from kessa.people.passwords import make_code
from kessa.places.models import Point
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import AuditEntry, Membership, Person, Programme
from tests.builders.people import PASSWORD, Room
from tests.builders.rooms import RoomTest

NEW = "slate-and-kettle-9"


class Joining(RoomTest):
    def setUp(self) -> None:
        self.manager = self.room.people["manager"]
        self.client.force_login(self.manager)

    def code(self, role: str = "monitor") -> str:
        answer = self.client.post(self.room.url("people/invite/"), {"role": role, "note": "Wren"})
        return re.search(r'class="code is-family-monospace">([^<]+)<', answer.content.decode())[1]

    def test_by_a_code_on_paper_with_a_new_account(self) -> None:
        """Typed in small letters without hyphens; the account joins and is signed in."""
        code = self.code().lower().replace("-", " ")
        guest = Client()
        self.assertRedirects(guest.post("/join/", {"code": code}), "/join/as/")
        self.assertContains(guest.get("/join/as/"), "invites you as monitor")
        said = {"username": "wren", "shown_name": "Wren Askew", "password": NEW}
        answer = guest.post("/join/as/", said)
        self.assertRedirects(answer, self.room.url("today/"))
        membership = Membership.objects.get(person__username="wren")
        self.assertEqual((membership.role, membership.programme), ("monitor", self.room.programme))
        self.assertEqual(DeviceSession.objects.filter(person=membership.person).count(), 1)

    def test_with_an_account_one_has(self) -> None:
        """Signed in already: one button; then two programmes to choose from."""
        code = self.code("viewer")
        other = Room("south-room").monitor
        guest = Client()
        guest.force_login(other)
        guest.post("/join/", {"code": code})
        self.assertContains(guest.get("/join/as/"), f"Join as {other}")
        guest.post("/join/as/")
        self.assertContains(guest.get("/"), "South-Room")
        self.assertContains(guest.get(self.room.url("today/")), "one of 2")

    def test_a_code_works_once_and_not_after_it_was_withdrawn(self) -> None:
        """The second person is told to ask for a new one."""
        code = self.code()
        invitation = invitation_of(code)
        join(invitation, Room("south-room").monitor)
        with self.assertRaisesMessage(ActionNotAllowed, "has been used"):
            join(invitation, Room("west-room").monitor)
        made, second = invite(self.room.programme, self.manager, "viewer")
        self.client.post(self.room.url(f"people/codes/{made.pk}/withdraw/"))
        for dead in (code, second, "AAAA-BBBB-CCCC"):
            answer = Client().post("/join/", {"code": dead})
            self.assertContains(answer, "is wrong or has already been used", status_code=422)

    def test_the_code_is_kept_as_a_hash_alone(self) -> None:
        """Nothing in the database or the audit reveals it."""
        code = self.code()
        row = Invitation.objects.values().get()
        self.assertNotIn(code, str(row))
        self.assertNotIn(code, str(list(AuditEntry.objects.values())))

    def test_wrong_fields_are_said_and_kept(self) -> None:
        """A taken name, a weak password: everything else stays typed."""
        guest = Client()
        guest.post("/join/", {"code": self.code()})
        said = {"username": self.manager.username, "shown_name": "Wren", "password": "12345"}
        answer = guest.post("/join/as/", said)
        self.assertContains(answer, "This sign-in name is taken", status_code=422)
        said["username"] = "wren"
        answer = guest.post("/join/as/", said)
        self.assertContains(answer, "too short", status_code=422)
        self.assertContains(answer, 'value="Wren"', status_code=422)
        self.assertFalse(Person.objects.filter(username="wren").exists())

    def test_guessing_codes_is_slowed_down(self) -> None:
        """After thirty tries from one address the page asks to wait."""
        for _ in range(30):
            Client().post("/join/", {"code": "AAAA-BBBB-CCCC"})
        answer = Client().post("/join/", {"code": self.code()})
        self.assertContains(answer, "Too many attempts", status_code=422)


class Members(RoomTest):
    def setUp(self) -> None:
        self.manager, self.monitor = self.room.people["manager"], self.room.monitor
        self.client.force_login(self.manager)

    def of(self, person: Person) -> Membership:
        return Membership.objects.get(programme=self.room.programme, person=person)

    def post(self, person: Person, what: str, **data):
        return self.client.post(self.room.url(f"people/{self.of(person).pk}/{what}/"), data)

    def test_a_role_changes_at_once(self) -> None:
        """The next page of that person obeys it."""
        guest = Client()
        guest.force_login(self.monitor)
        self.assertEqual(guest.get(self.room.url("audit/")).status_code, 403)
        self.post(self.monitor, "role", role="reviewer")
        self.assertEqual(guest.get(self.room.url("audit/")).status_code, 200)
        self.post(self.monitor, "withdraw")
        self.assertEqual(guest.get(self.room.url("today/")).status_code, 404)

    def test_the_last_manager_stays(self) -> None:
        """Neither the role nor the membership can go; a second manager frees the first."""
        with self.assertRaisesMessage(ActionNotAllowed, "only manager"):
            change_role(self.of(self.manager), self.manager, "viewer")
        answer = self.post(self.manager, "withdraw")
        self.assertContains(answer, "only manager", status_code=422)
        change_role(self.of(self.monitor), self.manager, "manager")
        withdraw(self.of(self.manager), self.manager)

    def test_somebody_who_left_comes_back_with_a_new_code(self) -> None:
        """The same membership, with the new role."""
        withdraw(self.of(self.monitor), self.manager)
        made, _ = invite(self.room.programme, self.manager, "viewer")
        join(made, self.monitor)
        back = self.of(self.monitor)
        self.assertEqual((back.role, back.ended_at), ("viewer", None))

    def test_pseudonymising(self) -> None:
        """Only after leaving; the name goes from results and pages, the account is closed."""
        result = self.room.finished()
        self.monitor.shown_name = "Tam Wetherill"
        self.monitor.save()
        answer = self.post(self.monitor, "pseudonymise")
        self.assertContains(answer, "End all memberships first", status_code=422)
        self.post(self.monitor, "withdraw")
        self.post(self.monitor, "pseudonymise")
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        self.assertNotContains(page, "Tam Wetherill")
        self.assertContains(page, f"Tested by Former member {self.monitor.pk}")
        self.monitor.refresh_from_db()
        self.assertFalse(self.monitor.is_active or self.monitor.has_usable_password())
        self.assertNotIn("Tam", str(list(AuditEntry.objects.values())))

    def test_a_manager_reaches_only_those_he_answers_for(self) -> None:
        """No password code and no pseudonym for a member of another programme."""
        south = Room("south-room")
        south.programme.memberships.create(person=self.monitor, role="viewer")
        with self.assertRaisesMessage(ActionNotAllowed, "do not manage"):
            make_code(self.room.programme, self.manager, self.of(self.monitor))
        self.monitor.memberships.update(ended_at="2026-01-01T00:00Z")
        answer = self.post(self.monitor, "pseudonymise")
        self.assertContains(answer, "do not manage", status_code=422)

    def test_settings(self) -> None:
        """Name and zone; own review is offered to one person alone."""
        page = self.client.get(self.room.url("settings/"))
        self.assertNotContains(page, "own_review")
        said = {"name": "Upper Room", "timezone": "Europe/London"}
        self.client.post(self.room.url("settings/"), said)
        self.room.programme.refresh_from_db()
        self.assertEqual(self.room.programme.timezone, "Europe/London")
        self.assertContains(self.client.get(self.room.url("people/")), "Upper Room")


class SigningIn(RoomTest):
    def setUp(self) -> None:
        self.person = self.room.monitor

    def sign_in(self, password: str = PASSWORD, client: Client | None = None):
        said = {"username": self.person.username, "password": password}
        return (client or self.client).post("/sign-in/", said)

    def test_guessing_is_slowed_down_for_the_name(self) -> None:
        """After ten wrong ones even the right one waits; another name is free."""
        for _ in range(10):
            self.sign_in("wrong")
        answer = self.sign_in()
        self.assertContains(answer, "Too many attempts. Try again in 15 minutes", status_code=429)
        other = {"username": self.room.people["viewer"].username, "password": PASSWORD}
        self.assertEqual(self.client.post("/sign-in/", other).status_code, 302)

    def test_next_leads_nowhere_else(self) -> None:
        """A foreign address is not followed."""
        for wanted, leads in (("https://elsewhere.example/", "/"), ("/account/", "/account/")):
            client = Client()
            said = {"username": self.person.username, "password": PASSWORD, "next": wanted}
            self.assertEqual(client.post("/sign-in/", said).headers["Location"], leads)

    def test_a_managers_code_sets_a_new_password(self) -> None:
        """Once, for this name; every device is signed out."""
        self.sign_in()
        manager = self.room.people["manager"]
        member = Membership.objects.get(person=self.person)
        code = make_code(self.room.programme, manager, member)
        said = {"username": "somebody", "code": code, "password": NEW}
        guest = Client()
        answer = guest.post("/sign-in/forgotten/", said)
        self.assertContains(answer, "is wrong", status_code=422)
        said["username"] = self.person.username
        weak = guest.post("/sign-in/forgotten/", said | {"password": "12345678"})
        self.assertContains(weak, "entirely numeric", status_code=422)
        self.assertContains(guest.post("/sign-in/forgotten/", said), "new password is set")
        self.assertEqual(self.client.get("/account/").status_code, 302)
        self.assertEqual(self.sign_in(NEW).status_code, 302)
        self.assertEqual(guest.post("/sign-in/forgotten/", said).status_code, 422)

    def test_devices_are_listed_and_signed_out(self) -> None:
        """Another browser appears and can be ended; its session is gone."""
        agent = {"User-Agent": "Mozilla/5.0 (Linux; Android 15) Chrome/140.0 Mobile"}
        tablet = Client(headers=agent)
        self.sign_in(client=tablet)
        self.sign_in()
        self.assertContains(self.client.get("/account/"), "Android, Chrome")
        device = DeviceSession.objects.get(device="Android, Chrome")
        self.client.post(f"/account/devices/{device.pk}/")
        self.assertEqual(tablet.get("/account/").status_code, 302)
        self.assertEqual(Session.objects.count(), 1)

    def test_a_new_password_signs_the_others_out(self) -> None:
        """The old one is asked for; this device stays."""
        tablet = Client()
        self.sign_in(client=tablet)
        self.sign_in()
        wrong = self.client.post("/account/password/", {"old": "x", "new": NEW})
        self.assertContains(wrong, "not your current password", status_code=422)
        self.client.post("/account/password/", {"old": PASSWORD, "new": NEW})
        self.assertEqual(self.client.get("/account/").status_code, 200)
        self.assertEqual(tablet.get("/account/").status_code, 302)

    def test_one_time_codes(self) -> None:
        """Turned on with a first code; then signing in asks; a spare code works once."""
        self.sign_in()
        self.client.get("/account/codes/")
        device = TOTPDevice.objects.get(user=self.person)
        wrong = self.client.post("/account/codes/", {"token": "000000", "password": PASSWORD})
        self.assertContains(wrong, "is wrong or has expired", status_code=422)
        TOTPDevice.objects.update(throttling_failure_count=0, throttling_failure_timestamp=None)
        done = self.client.post(
            "/account/codes/", {"token": f"{totp(device.bin_key):06d}", "password": PASSWORD}
        )
        spare = re.search(r"<li>([a-z0-9]+)</li>", done.content.decode())[1]
        for code, status in ((spare, 302), (spare, 422)):
            client = Client()
            self.assertRedirects(self.sign_in(client=client), "/sign-in/code/")
            self.assertEqual(client.get(self.room.url("today/")).status_code, 302)
            answer = client.post("/sign-in/code/", {"token": code})
            self.assertEqual(answer.status_code, status)
        wrong = self.client.post("/account/codes/off/", {"password": "x"})
        self.assertEqual(wrong.status_code, 422)
        self.client.post("/account/codes/off/", {"password": PASSWORD})
        self.assertRedirects(self.sign_in(client=Client()), "/", fetch_redirect_response=False)

    def test_leaving_for_good(self) -> None:
        """Programmes first, the password once more; then the name is gone."""
        self.sign_in()
        said = {"password": PASSWORD}
        answer = self.client.post("/account/close/", said)
        self.assertContains(answer, "End all memberships first", status_code=422)
        self.client.post(f"/account/leave/{Membership.objects.get(person=self.person).pk}/")
        self.assertRedirects(self.client.post("/account/close/", said), "/sign-in/")
        self.person.refresh_from_db()
        self.assertEqual(self.person.shown_name, f"Former member {self.person.pk}")


class FirstUse(TestCase):
    def test_from_nothing_to_the_first_test(self) -> None:
        """A programme of one's own leads to the first point, and the point to the first test."""
        person = Person.objects.create_user("wren", password=PASSWORD)
        self.client.force_login(person)
        self.assertContains(self.client.get("/"), "Create a programme")
        said = {"name": "Wren’s well", "timezone": "Europe/London"}
        answer = self.client.post("/programmes/new/", said, follow=True)
        self.assertContains(answer, "Where do you test?")
        slug = Programme.objects.get().slug
        point = {"water": "new", "water_name": "", "kind": "well", "name": "pump", "place": "yard"}
        wrong = self.client.post(f"/p/{slug}/points/new/", point)
        self.assertContains(wrong, "Enter a name", status_code=422)
        self.assertContains(wrong, 'value="yard"', status_code=422)
        point["water_name"] = "The well"
        answer = self.client.post(f"/p/{slug}/points/new/", point, follow=True)
        menu = re.search(r'hx-get="([^"]+)"', answer.content.decode())[1]
        for headers in ({}, {"HX-Request": "true"}):
            tests = self.client.get(menu, headers=headers)
            self.assertContains(tests, "Chloride, 15 mL")
            self.assertEqual("<html" in tests.content.decode(), not headers)
        made = Point.objects.get()
        begun = self.client.post(
            f"/p/{slug}/points/{made.pk}/test/", {"method": "chloride-drops-15ml"}, follow=True
        )
        self.assertContains(begun, "Is it safe to sample?")
        taken_up = AuditEntry.objects.filter(act="method.taken-up")
        self.assertEqual(len({entry.data["name"] for entry in taken_up}), 2)

    def test_a_new_water_is_made_when_one_is_named(self) -> None:
        """Whatever the list says; without a name the point lies at the chosen water."""
        room = Room()
        self.client.force_login(room.people["manager"])
        point = {"water": room.water.pk, "kind": "well", "name": "pump", "place": "yard"}
        for name, water in (("The well", "The well"), ("", "Beck")):
            self.client.post(room.url("points/new/"), point | {"water_name": name})
            self.assertEqual(Point.objects.latest("pk").water.name, water)
