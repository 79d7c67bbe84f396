"""Accounts on the open internet: passwords, second factors, how long a sign-in lasts, cookies, and
what is logged of it."""

import re
from datetime import UTC, datetime, timedelta

import time_machine
from django.conf import settings
from django.core.exceptions import ValidationError
from django.test import Client, override_settings
from django_otp.oath import totp
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from kessa.people.members import invite
from kessa.people.models import DeviceSession
from kessa.people.passwords import make_code
from kessa.people.services import change_settings, make_person
from kessa.platform.models import Membership
from tests.builders.people import PASSWORD
from tests.builders.rooms import RoomTest

NOW = datetime(2026, 11, 19, 9, 40, tzinfo=UTC)


class Account(RoomTest):
    def setUp(self) -> None:
        self.person = self.room.people["manager"]

    def sign_in(self, client: Client | None = None, password: str = PASSWORD):
        said = {"username": self.person.username, "password": password}
        return (client or self.client).post("/sign-in/", said)

    def turn_codes_on(self) -> list[str]:
        """For the client that is signed in; the spare codes."""
        self.client.get("/account/codes/")
        token = f"{totp(TOTPDevice.objects.get(user=self.person).bin_key):06d}"
        page = self.client.post("/account/codes/", {"token": token, "password": PASSWORD})
        return re.findall(r"<li>([a-z0-9]+)</li>", page.content.decode())


class Passwords(Account):
    def test_which_are_taken(self) -> None:
        """From twelve characters, of any kind, up to 128; not the common ones, nor one's name."""
        for number, (password, says) in enumerate(
            (
                ("elevenchars", "too short"),
                ("twelve chars", ""),
                ("1234567890123456", "entirely numeric"),
                ("password1234", "too common"),
                ("quillwortperson-5", "too similar"),
                ("Ämne ☕ " * 18, ""),
                ("x" * 64 + " " + "y" * 63, ""),
            )
        ):
            name = f"quillwortperson-{number}"
            with self.subTest(password):
                if says:
                    with self.assertRaisesRegex(ValidationError, says):
                        make_person(name, password)
                else:
                    self.assertTrue(make_person(name, password).check_password(password))

    def test_nothing_is_cut_off(self) -> None:
        """A password that differs in its last letter is another one."""
        person = make_person("somebody", "x" * 127 + "y")
        self.assertFalse(person.check_password("x" * 127))
        self.assertFalse(person.check_password("x" * 128))


class SecondFactor(Account):
    def test_the_password_is_asked_before_it_is_turned_on(self) -> None:
        self.sign_in()
        self.client.get("/account/codes/")
        token = f"{totp(TOTPDevice.objects.get(user=self.person).bin_key):06d}"
        for password, says in (
            ("", "Enter your password again"),
            ("x" * 14, "not your current password"),
        ):
            answer = self.client.post("/account/codes/", {"token": token, "password": password})
            with self.subTest(says):
                self.assertContains(answer, says, status_code=422)
        self.assertFalse(TOTPDevice.objects.filter(confirmed=True).exists())
        self.assertEqual(len(self.turn_codes_on()), 8)

    def test_spare_codes_are_hashed(self) -> None:
        """What the table holds opens nothing; what was shown opens once."""
        self.sign_in()
        shown = self.turn_codes_on()
        kept = set(StaticToken.objects.values_list("token", flat=True))
        self.assertEqual(kept & set(shown), set())
        for code, status in ((next(iter(kept)), 422), (shown[0], 302), (shown[0], 422)):
            client = Client()
            self.sign_in(client)
            for device in (TOTPDevice, StaticDevice):
                device.objects.update(throttling_failure_count=0, throttling_failure_timestamp=None)
            with self.subTest(code):
                self.assertEqual(client.post("/sign-in/code/", {"token": code}).status_code, status)

    def test_a_programme_asks_everybody_for_it(self) -> None:
        """Nothing of it is shown before; afterwards everything is. The other programmes of that
        person are open meanwhile."""
        change_settings(self.room.programme, self.person, second_factor=True)
        self.sign_in()
        answer = self.client.get(self.room.url("today/"))
        self.assertRedirects(answer, "/account/codes/")
        self.assertContains(self.client.get("/account/codes/"), "requires one-time codes")
        sent = self.client.post(self.room.url("events/"), {"events": []}, "application/json")
        self.assertEqual(sent.status_code, 401)
        self.turn_codes_on()
        self.assertEqual(self.client.get(self.room.url("today/")).status_code, 200)
        self.client.post("/account/codes/off/", {"password": PASSWORD})
        self.assertRedirects(self.client.get(self.room.url("today/")), "/account/codes/")

    def test_a_sign_in_with_a_code_gets_in(self) -> None:
        self.sign_in()
        spare = self.turn_codes_on()
        change_settings(self.room.programme, self.person, second_factor=True)
        client = Client()
        self.sign_in(client)
        client.post("/sign-in/code/", {"token": spare[0]})
        self.assertEqual(client.get(self.room.url("today/")).status_code, 200)

    def test_a_manager_sets_it(self) -> None:
        self.sign_in()
        typed = {"name": "North Room", "timezone": "UTC", "second_factor": "on"}
        self.client.post(self.room.url("settings/"), typed)
        self.room.programme.refresh_from_db()
        self.assertTrue(self.room.programme.second_factor)


class Told(Account):
    def test_a_change_is_told_at_the_next_sign_in(self) -> None:
        """When and on which device, once; and it stands in the account."""
        self.sign_in()
        agent = {"User-Agent": "Mozilla/5.0 (Linux; Android 15) Chrome/140.0 Mobile"}
        other = Client(headers=agent)
        self.sign_in(other)
        new = {"old": PASSWORD, "new": "another-slate-kettle"}
        other.post("/account/password/", new)
        again = Client()
        self.sign_in(again, "another-slate-kettle")
        page = again.get("/account/")
        self.assertContains(page, "Your password was changed on 19 November 2026, 09:4")
        self.assertContains(page, "(Android, Chrome). If that was not you")
        page = again.get("/account/")
        self.assertNotContains(page, "If that was not you")
        self.assertContains(page, "Your password was changed")

    def test_every_kind_of_change(self) -> None:
        """Set with a manager's code, codes on, codes off: each is told."""
        self.sign_in()
        self.turn_codes_on()
        self.client.post("/account/codes/off/", {"password": PASSWORD})
        member = Membership.objects.get(person=self.person)
        code = make_code(self.room.programme, self.person, member)
        said = {"username": self.person.username, "code": code, "password": "slate-again-kettle"}
        Client().post("/sign-in/forgotten/", said)
        client = Client()
        self.sign_in(client, "slate-again-kettle")
        page = client.get("/account/")
        for words in ("were turned on", "were turned off", "set with a manager’s code"):
            self.assertContains(page, words)


class SignIns(Account):
    def at(self, later: timedelta) -> int:
        """The status of a page so long after now."""
        with time_machine.travel(NOW + later, tick=False):
            return self.client.get("/account/").status_code

    def test_they_end(self) -> None:
        """Eight hours without use, to the second; twenty-four hours with it."""
        idle = timedelta(seconds=settings.LONGEST_IDLE)
        for waits, status in (
            ([idle], 200), ([idle + timedelta(seconds=1)], 302),
            ([idle / 2] * 6, 200), ([idle / 2] * 7, 302),
        ):  # fmt: skip
            with self.subTest(waits=waits), time_machine.travel(NOW, tick=False):
                self.client = Client()
                self.sign_in()
                passed, answer = timedelta(), 0
                for wait in waits:
                    passed += wait
                    answer = self.at(passed)
                self.assertEqual(answer, status)

    def test_it_is_said_and_the_device_is_gone_from_the_list(self) -> None:
        with time_machine.travel(NOW):
            self.sign_in()
        with time_machine.travel(NOW + timedelta(hours=9)):
            page = self.client.get("/account/", follow=True)
        self.assertContains(page, "8 hours without use")
        self.assertEqual(DeviceSession.objects.count(), 0)

    def test_signing_out(self) -> None:
        self.sign_in()
        self.client.post("/sign-out/")
        self.assertEqual(self.client.get("/account/").status_code, 302)


class Cookies(Account):
    def test_over_tls(self) -> None:
        """Bound to the host by their names, secure, out of reach of scripts but for the token
        against forged requests, which the bench reads."""
        with override_settings(
            SESSION_COOKIE_SECURE=True, CSRF_COOKIE_SECURE=True,
            SESSION_COOKIE_NAME="__Host-session", CSRF_COOKIE_NAME="__Host-csrftoken",
        ):  # fmt: skip
            client = Client()
            client.get("/sign-in/", secure=True)
            said = {"username": self.person.username, "password": PASSWORD}
            cookies = client.post("/sign-in/", said, secure=True).cookies
            for name, hidden in (("__Host-session", True), ("kessa-known", True)):
                with self.subTest(name):
                    held = cookies[name]
                    self.assertTrue(held["secure"])
                    self.assertEqual(bool(held["httponly"]), hidden)
                    self.assertEqual((held["samesite"], held["path"]), ("Lax", "/"))
                    self.assertEqual(held["domain"], "")

    def test_nothing_is_stored_of_what_a_signed_in_person_is_shown(self) -> None:
        self.sign_in()
        for path in ("account/", self.room.url("today/")[1:], self.room.url("log.csv")[1:]):
            with self.subTest(path):
                self.assertIn("no-store", self.client.get(f"/{path}").headers["Cache-Control"])
        self.assertNotIn("Cache-Control", Client().get("/health/").headers)

    def test_a_code_stands_in_no_address(self) -> None:
        """Not in the one that the picture of an invitation leads to; and one that somebody puts
        there is not read."""
        self.sign_in()
        made, code = invite(self.room.programme, self.person, "viewer")
        page = Client().get(f"/join/?code={code}")
        self.assertNotContains(page, code)
        self.assertContains(page, "data-code-from-picture")
        self.assertTrue(made.pk)


class SecurityLog(Account):
    def logged(self, act) -> list[tuple[str, int | None]]:
        with self.assertLogs("kessa.security", "INFO") as caught:
            act()
        return [(one.getMessage(), one.person) for one in caught.records]

    def test_who_did_what(self) -> None:
        """By number, never by name; a name that is no account has none."""
        who = self.person.pk
        self.assertEqual(
            self.logged(lambda: self.sign_in(password="x")), [("sign-in refused", who)]
        )
        nobody = {"username": "nobody", "password": "x"}
        refused = self.logged(lambda: self.client.post("/sign-in/", nobody))
        self.assertEqual(refused, [("sign-in refused", None)])
        self.assertEqual(self.logged(self.sign_in), [("signed in", who)])
        self.assertEqual(self.logged(self.turn_codes_on), [("codes turned on", who)])
        new = {"old": PASSWORD, "new": "another-slate-kettle"}
        changed = self.logged(lambda: self.client.post("/account/password/", new))
        self.assertEqual(changed, [("password changed", who)])
        off = {"password": "another-slate-kettle"}
        done = self.logged(lambda: self.client.post("/account/codes/off/", off))
        self.assertEqual(done, [("codes turned off", who)])
        self.assertEqual(self.logged(lambda: self.client.post("/sign-out/")), [("signed out", who)])

    def test_guessing_is_seen(self) -> None:
        """Ten refusals, then being slowed down."""
        told = self.logged(lambda: [self.sign_in(password="x") for _ in range(11)])
        self.assertEqual(
            [one for one, _ in told], ["sign-in refused"] * 10 + ["sign-in slowed down"]
        )
