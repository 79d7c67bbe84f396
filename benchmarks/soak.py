"""Kill -9 of database or application at random moments of a bench in a browser, then restart.

./kessa bench soak [TIMES]: afterwards no act is lost that the page had kept, none is doubled, and
the audit is whole. Prints a line a kill; status 1 at the first disagreement.
"""

import os
import random
import signal
import subprocess
import sys
import time
from contextlib import suppress
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.test import Client
from playwright.sync_api import Page, sync_playwright
from tests.browser.base import ARGUMENTS, BenchDriver
from tests.browser.hook import open_bench
from tests.browser.server import Server
from tests.builders.people import Room

from kessa.platform.verify import find_errors
from kessa.runs.models import Event
from kessa_launch import ports
from kessa_launch.postgres import Cluster
from kessa_launch.state_paths import places

TIMES = int(sys.argv[1]) if len(sys.argv) > 1 else 50
KEYS = ["Space"] * 6 + ["n"] * 5 + ["1"] * 4 + ["e"] * 2 + ["Backspace", "o", "d"]


class Soak:
    """One bench page, one application, one database; two of them are killed in turn."""

    def __init__(self, page: Page) -> None:
        self.page, self.draw = page, random.Random(50)
        self.cluster = Cluster(places(), "bench")
        self.server = Server(ports.free(8200))
        self.server.start()
        self.room = Room(f"soak-{int(time.time())}")
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(self.room.monitor)
        cookie = {"name": "sessionid", "value": client.cookies["sessionid"].value}
        page.context.add_cookies([cookie | {"url": self.server.address}])
        self.kept: set[str] = set()
        self.begin()

    def begin(self) -> None:
        """A fresh run on the page."""
        run = self.room.new_run()
        address = self.server.address + self.room.url(f"bench/{run.pk}/")
        self.bench = BenchDriver(self.page, str(run.pk), address)

    def kill_application(self) -> None:
        self.server.kill()
        self.press(self.draw.uniform(0, 0.6))
        self.server.start()

    def kill_database(self) -> None:
        pattern = f"postgres.*{self.cluster.folder}"
        pid = int(subprocess.check_output(["pgrep", "-o", "-f", pattern]).split()[0])
        found = subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True)
        for process in (*map(int, found.stdout.split()), pid):
            with suppress(ProcessLookupError):
                os.kill(process, signal.SIGKILL)
        connection.close()
        self.press(self.draw.uniform(0, 0.6))
        port = str(self.cluster.start().port)
        if port != str(connection.settings_dict["PORT"]):
            connection.settings_dict["PORT"] = os.environ["KESSA_DB_PORT"] = port
            self.server.kill()
            self.server.start()

    def press(self, seconds: float) -> None:
        until = time.monotonic() + seconds
        while time.monotonic() < until:
            self.bench.press(self.draw.choice(KEYS))
            time.sleep(self.draw.uniform(0, 0.04))

    def once(self, number: int) -> None:
        """Acts, a kill in the middle of them, acts, everything sent, everything compared."""
        self.press(self.draw.uniform(0.1, 1.2))
        what = self.draw.choice(["application", "database"])
        begun = time.monotonic()
        {"application": self.kill_application, "database": self.kill_database}[what]()
        self.press(self.draw.uniform(0.1, 0.5))
        self.bench.all_sent()
        told = self.page.evaluate("document.getElementById('main').kessa.ids()")
        self.kept.update(told)
        own = Event.objects.filter(programme=self.room.programme)
        stored = list(own.values_list("pk", flat=True))
        lost, foreign = self.kept - set(stored), set(stored) - self.kept
        if lost or foreign or len(stored) != len(set(stored)):
            raise SystemExit(f"{number}: {len(lost)} lost, {len(foreign)} unknown to the page")
        took = time.monotonic() - begun
        print(
            f"{number:3} {what:12} {len(stored):5} acts, all there once, {took:.1f} s", flush=True
        )
        if self.page.locator("#main").get_attribute("data-now") == "finished":
            self.begin()


def main() -> None:
    """Run it and check the audit at the end."""
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    call_command("upgrade")
    call_command("collectstatic", interactive=False, verbosity=0)
    open_bench(Path(settings.STATIC_ROOT))
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=ARGUMENTS)
        soak = Soak(browser.new_page())
        try:
            for number in range(1, TIMES + 1):
                soak.once(number)
        finally:
            soak.server.kill()
        found = list(find_errors(soak.room.programme))
        print(f"{TIMES} kills; audit: {'whole' if not found else found[:5]}")
        browser.close()
        sys.exit(1 if found else 0)


if __name__ == "__main__":
    main()
