"""On a phone, over TLS, behind nginx, with the settings of real work: signed in with a second
factor, tested, signed out."""

import re
from contextlib import ExitStack

from django.conf import global_settings
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice
from playwright.sync_api import Page, expect

from kessa.people.services import change_settings
from tests.browser.base import PHONE, BenchDriver, BrowserTest, overflow
from tests.builders.people import PASSWORD
from tests.proxied import serve_behind_nginx


class OnAPhone(BrowserTest):
    worker = True

    def setUp(self) -> None:
        super().setUp()
        stack = ExitStack()
        self.addCleanup(stack.close)
        self.base = serve_behind_nginx(stack).address
        self.person = self.room.monitor
        with self.settings(PASSWORD_HASHERS=global_settings.PASSWORD_HASHERS):
            self.person.set_password(PASSWORD)
            self.person.save()
        change_settings(self.room.programme, self.room.people["manager"], second_factor=True)

    def test_signed_in_tested_signed_out(self) -> None:
        """The programme asks everybody for codes: turned on at the first sign-in, asked for at the
        second; a whole test between them."""
        page = self.phone()
        self.sign_in_with_password(page)
        expect(page.get_by_text("requires one-time codes")).to_be_visible()
        page.get_by_label("Code", exact=True).fill(self.token())
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Turn on").tap()
        expect(page.get_by_role("heading", name="One-time codes are on")).to_be_visible()
        spare = page.locator("main li").all_inner_texts()
        page.goto(f"{self.base}{self.room.url('today/')}")
        self.whole_test(page)
        self.sign_out(page)

        page = self.phone()
        self.sign_in_with_password(page)
        expect(page.get_by_label("Code", exact=True)).to_be_visible()
        self.assertEqual(overflow(page), 0)
        page.get_by_label("Code", exact=True).fill(spare[3].strip())
        page.get_by_role("button", name="Sign in").tap()
        places = page.get_by_role("navigation", name="Main, phone")
        places.get_by_role("link", name="Log").tap()
        expect(page.get_by_text("58").first).to_be_visible()
        self.sign_out(page)

    def phone(self) -> Page:
        sizes = {"has_touch": True, "is_mobile": True, "ignore_https_errors": True}
        return self.new_page(self.context(PHONE, **sizes))

    def sign_in_with_password(self, page: Page) -> None:
        page.goto(self.base)
        page.get_by_label("Name").fill(self.person.username)
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").tap()

    def token(self) -> str:
        """What an authenticator app would show."""
        device = TOTPDevice.objects.get(user=self.person)
        return f"{totp(device.bin_key):06d}"

    def whole_test(self, page: Page) -> None:
        """Blank 2, 7 and 8 drops."""
        page.get_by_role("link", name="Beck, at the ford").tap()
        page.get_by_role("button", name="Start test").tap()
        page.get_by_role("button", name=re.compile("^Chloride, 15 mL")).tap()
        page.get_by_role("button", name="Yes, it is safe").tap()
        page.get_by_label("clear", exact=True).tap()
        page.get_by_label("dry", exact=True).tap()
        page.get_by_role("button", name="Next: take the sample").tap()
        page.get_by_role("button", name=re.compile("Save sample")).tap()
        bench = BenchDriver(page)
        bench.through(7, 8, blank=2)
        expect(page.locator(".r-figure")).to_have_text("58")
        bench.all_sent()

    def sign_out(self, page: Page) -> None:
        page.goto(f"{self.base}{self.room.url('today/')}")
        page.get_by_text("Menu").tap()
        page.get_by_role("button", name="Sign out").tap()
        expect(page.get_by_role("button", name="Sign in")).to_be_visible()
