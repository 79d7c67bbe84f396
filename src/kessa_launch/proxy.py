"""Debian's nginx before gunicorn: TLS, and limits of time and size. Its configuration is written
again at every start; nothing of the machine's own nginx is used."""

import os
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from string import Template

from kessa_launch.children import running
from kessa_launch.errors import LauncherError

TEMPLATES = Path(__file__).parent / "nginx"
LINE = "apt-get install -y nginx-light"
REFUSALS = {
    400: "This request cannot be read.",
    408: "The request came too slowly.",
    413: "This is too much at once; send it in smaller pieces.",
    414: "This address is too long.",
    429: "Too many requests; try again in a minute.",
    431: "The headers of this request are too long.",
    494: "The headers of this request are too long.",
    497: "Kessa is reached by https alone.",
    502: "Kessa is just starting, or has stopped. Try again in a minute.",
    503: "Kessa is busy. Try again in a minute.",
    504: "Kessa did not answer in time. What waits on this device stays there.",
}
"""What nginx itself refuses, in words."""


@dataclass(frozen=True)
class Proxy:
    """Where nginx listens and what it stands before.

    folder: for its configuration, its pages and what it keeps while it runs. certificate, key: for
    TLS; both empty where another proxy in front ends it.
    """

    folder: Path
    bind: str
    certificate: str = ""
    key: str = ""

    @property
    def socket(self) -> Path:
        """Where gunicorn listens."""
        return self.folder / "kessa.sock"

    def write(self) -> Path:
        """Write configuration and pages; where the configuration is.

        Raises LauncherError when only one of certificate and key is given.
        """
        if bool(self.certificate) != bool(self.key):
            raise LauncherError("Set both KESSA_TLS_CERT and KESSA_TLS_KEY, or neither.")
        pages = self.folder / "pages"
        pages.mkdir(parents=True, exist_ok=True)
        shutil.copy(TEMPLATES / "refused.css", pages / "refused-page.css")
        page = Template((TEMPLATES / "refused.html").read_text("utf-8"))
        for status, words in REFUSALS.items():
            (pages / f"refused-{status}.html").write_text(page.substitute(words=words), "utf-8")
            (pages / f"refused-{status}.json").write_text(f'{{"error": "{words}"}}', "utf-8")
        (self.folder / "pass.conf").write_text(self._passed_on(), "utf-8")
        text = Template((TEMPLATES / "nginx.conf").read_text("utf-8")).substitute(
            folder=self.folder,
            user="user root;" if os.geteuid() == 0 else "",
            listen=f"{self.bind} ssl" if self.certificate else self.bind,
            tls=self._tls(),
            html=_error_pages("html"),
            json=_error_pages("json"),
        )
        (self.folder / "nginx.conf").write_text(text, "utf-8")
        return self.folder / "nginx.conf"

    def _tls(self) -> str:
        if not self.certificate:
            return ""
        return (
            f"ssl_certificate {Path(self.certificate).resolve()};\n"
            f"    ssl_certificate_key {Path(self.key).resolve()};\n"
            "    ssl_protocols TLSv1.2 TLSv1.3;\n"
            "    ssl_prefer_server_ciphers off;\n"
            "    ssl_session_cache shared:tls:4m;"
        )

    def _passed_on(self) -> str:
        """What gunicorn is told of the request. Without TLS here a proxy in front has said where it
        comes from; with it, nobody but nginx says so."""
        own = bool(self.certificate)
        return Template((TEMPLATES / "pass.conf").read_text("utf-8")).substitute(
            socket=self.socket,
            forwarded_for="$remote_addr" if own else "$http_x_forwarded_for",
            forwarded_proto="$scheme" if own else "$http_x_forwarded_proto",
        )


@contextmanager
def proxying(proxy: Proxy, environ: dict[str, str]) -> Iterator[None]:
    """nginx runs for the length of a block. Raises LauncherError where it is not installed."""
    program = shutil.which("nginx", path=f"{environ.get('PATH', '')}:/usr/sbin")
    if program is None:
        raise LauncherError(f"Kessa is served through Debian's nginx. Run this once: {LINE}")
    config = proxy.write()
    flags = ["-c", str(config), "-p", str(proxy.folder), "-g", "daemon off;", "-e", "stderr"]
    with running([program, *flags], environ):
        yield


def _error_pages(kind: str) -> str:
    return "\n".join(f"    error_page {n} /refused-{n}.{kind};" for n in REFUSALS)
