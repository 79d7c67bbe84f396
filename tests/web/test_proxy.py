"""nginx before gunicorn, by our configuration: slow, idle and huge requests hold nobody up."""

import json
import re
import socket
import ssl
import tempfile
import time
import warnings
from contextlib import ExitStack, closing
from pathlib import Path

from django.db import connection
from django.test import TestCase

from kessa_launch.errors import LauncherError
from kessa_launch.proxy import REFUSALS, Proxy
from tests.proxied import serve_behind_nginx

WITHIN_S = 1.0


class BehindNginx(TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        stack = ExitStack()
        cls.addClassCleanup(stack.close)
        cls.server = serve_behind_nginx(stack, KESSA_DEBUG="1", KESSA_DEMO="1")

    @classmethod
    def connect(cls, *, tls: bool = True) -> socket.socket:
        plain = socket.create_connection(("127.0.0.1", cls.server.port), timeout=10)
        return cls.server.tls.wrap_socket(plain, server_hostname="127.0.0.1") if tls else plain

    @classmethod
    def ask(
        cls, first: str, *headers: str, body: bytes = b"", tls: bool = True
    ) -> tuple[int, dict[str, str], bytes]:
        """Status, headers and body of one request."""
        lines = [first, f"Host: 127.0.0.1:{cls.server.port}", "Connection: close", *headers, "", ""]
        with cls.connect(tls=tls) as held:
            held.sendall("\r\n".join(lines).encode() + body)
            return cls.read(held)

    @staticmethod
    def read(held: socket.socket) -> tuple[int, dict[str, str], bytes]:
        answer = b""
        while piece := held.recv(65536):
            answer += piece
        head, _, rest = answer.partition(b"\r\n\r\n")
        first, *lines = head.decode("latin-1").split("\r\n")
        named = dict(line.split(": ", 1) for line in lines)
        return int(first.split()[1]), {name.lower(): v for name, v in named.items()}, rest

    def assert_answers_soon(self) -> None:
        """The next request is answered within a second."""
        begun = time.monotonic()
        self.assertEqual(self.ask("GET /sign-in/ HTTP/1.1")[0], 200)
        self.assertLess(time.monotonic() - begun, WITHIN_S)

    def assert_ours(self, headers: dict[str, str]) -> None:
        """A refusal that carries our headers and not the program's name and version."""
        self.assertIn("default-src 'none'", headers["content-security-policy"])
        self.assertIn("style-src 'self'", headers["content-security-policy"])
        self.assertEqual(headers["x-content-type-options"], "nosniff")
        self.assertEqual(headers["server"], "nginx")

    def test_idle_connections(self) -> None:
        """Two hundred that say nothing after the handshake."""
        with ExitStack() as held:
            for _ in range(200):
                held.enter_context(self.connect())
            self.assert_answers_soon()

    def test_half_sent_requests(self) -> None:
        """Headers that never end, a handshake that never begins, a body that never comes."""
        with ExitStack() as held:
            for _ in range(60):
                half = held.enter_context(self.connect())
                half.sendall(b"GET /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: ")
                held.enter_context(self.connect(tls=False))
                late = held.enter_context(self.connect())
                late.sendall(
                    b"POST /sign-in/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900\r\n\r\nuser"
                )
            self.assert_answers_soon()

    def test_a_body_of_300_megabytes(self) -> None:
        """Refused by its announced length, in our words; to the bench as JSON."""
        length = "Content-Length: 300000000"
        status, headers, body = self.ask("POST /sign-in/ HTTP/1.1", length)
        self.assertEqual(status, 413)
        self.assertIn(REFUSALS[413].encode(), body)
        self.assert_ours(headers)
        for path in ("/append/", "/p/north-room/events/"):
            status, headers, body = self.ask(f"POST {path} HTTP/1.1", length)
            with self.subTest(path):
                self.assertEqual((status, json.loads(body)), (413, {"error": REFUSALS[413]}))
        self.assert_answers_soon()

    def test_old_versions_of_tls(self) -> None:
        """1.2 and 1.3 are spoken, 1.1 is not."""
        for version, spoken in (("TLSv1_3", True), ("TLSv1_2", True), ("TLSv1_1", False)):
            tls = ssl.create_default_context()
            tls.check_hostname, tls.verify_mode = False, ssl.CERT_NONE
            tls.set_ciphers("ALL:@SECLEVEL=0")
            with warnings.catch_warnings(action="ignore", category=DeprecationWarning):
                tls.minimum_version = tls.maximum_version = ssl.TLSVersion[version]
            plain = socket.create_connection(("127.0.0.1", self.server.port), timeout=10)
            with self.subTest(version), plain:
                if spoken:
                    self.assertTrue(tls.wrap_socket(plain).version())
                else:
                    with self.assertRaises(ssl.SSLError):
                        tls.wrap_socket(plain)

    def test_the_style_of_a_refusal(self) -> None:
        status, headers, body = self.ask("GET /refused-page.css HTTP/1.1")
        self.assertEqual((status, headers["content-type"]), (200, "text/css"))
        self.assertIn(b"max-width", body)

    def test_what_cannot_be_read(self) -> None:
        """A line that is no request, headers and addresses too long, no TLS."""
        long = "x" * 9_000
        for first, headers, tls, status in (
            ("NONSENSE", (), True, 400),
            ("GET / HTTP/1.1", (f"X-Long: {long}",), True, 400),
            (f"GET /{long} HTTP/1.1", (), True, 414),
            ("GET / HTTP/1.1", (), False, 400),
        ):
            found, told, body = self.ask(first, *headers, tls=tls)
            with self.subTest(first=first[:20], tls=tls):
                self.assertEqual(found, status)
                self.assertIn(b"Kessa", body)
                self.assert_ours(told)

    def test_where_a_request_comes_from_is_nginx_to_say(self) -> None:
        """A header that pretends another address each time is not passed on: tries count for one
        place, and the thirty-first is too many."""
        self.addCleanup(self.forget_tries)
        _, headers, page = self.ask("GET /join/ HTTP/1.1")
        token = re.search(rb'name="csrfmiddlewaretoken" value="(\w+)"', page)[1].decode()
        cookie = headers["set-cookie"].partition(";")[0]
        form = f"csrfmiddlewaretoken={token}&code=AAAA-AAAA".encode()
        for number in range(31):
            status, _, page = self.ask(
                "POST /join/ HTTP/1.1", f"X-Forwarded-For: 10.0.0.{number}", f"Cookie: {cookie}",
                f"Referer: {self.server.address}/join/", f"Content-Length: {len(form)}",
                "Content-Type: application/x-www-form-urlencoded", body=form,
            )  # fmt: skip
            self.assertEqual((status, b"Too many attempts" in page), (422, number == 30))

    def forget_tries(self) -> None:
        """What the servers have counted, in the database that other tests use too."""
        with closing(connection.copy()) as other, other.cursor() as cursor:
            cursor.execute("DELETE FROM people_attemptcount")


class Configuration(TestCase):
    def test_certificate_and_key_belong_together(self) -> None:
        with (
            tempfile.TemporaryDirectory() as folder,
            self.assertRaisesMessage(LauncherError, "Set both"),
        ):
            Proxy(Path(folder), "127.0.0.1:8443", "cert.pem").write()

    def test_behind_another_proxy(self) -> None:
        """Without TLS of its own it passes on what the proxy in front said."""
        with tempfile.TemporaryDirectory() as folder:
            Proxy(Path(folder), "127.0.0.1:8080").write()
            passed = (Path(folder) / "pass.conf").read_text()
            self.assertIn("X-Forwarded-For $http_x_forwarded_for", passed)
            self.assertNotIn("ssl", (Path(folder) / "nginx.conf").read_text())
