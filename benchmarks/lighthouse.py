"""Lighthouse on the main pages, phone and desktop: the median of several loads.

./kessa bench lighthouse [TIMES]: five loads a page unless said otherwise. Lighthouse comes from the
npm registry into a folder that is thrown away.
"""

import json
import os
import statistics
import subprocess
import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright
from tools.serving import serving
from tools.shots import sign_in, to_the_bench, to_the_water

LIGHTHOUSE = "lighthouse@12.8.2"
TIMES = int(sys.argv[1]) if len(sys.argv) > 1 else 5
KINDS = ("performance", "accessibility", "best-practices", "seo")
POINT = "points/1/"


def fetched(folder: Path) -> Path:
    """The command, installed into *folder*."""
    line = ["npm", "install", "--silent", "--no-audit", "--prefix", str(folder), LIGHTHOUSE]
    subprocess.run(line, check=True)
    return folder / "node_modules" / ".bin" / "lighthouse"


def signed_in(address: str) -> tuple[str, dict[str, str]]:
    """The cookies of somebody who is signed in, and the pages to load, a bench among them."""
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path="/usr/bin/chromium", args=["--no-sandbox"]
        )
        page = browser.new_page()
        sign_in(page, address)
        base = f"{address}/p/lowen-vale/"
        page.goto(base + POINT)
        to_the_water(page)
        to_the_bench(page)
        pages = {"Today": base + "today/", "point": base + POINT, "log": base + "log/",
                 "library": base + "library/", "bench": page.url}  # fmt: skip
        cookies = "; ".join(f"{one['name']}={one['value']}" for one in page.context.cookies())
        browser.close()
    return cookies, pages


def scores(command: Path, address: str, cookies: str, desktop: bool) -> dict[str, float]:
    """One load: each kind of score, from 0 to 100."""
    line = [str(command), address, "--quiet", "--output=json"]
    line += ["--chrome-flags=--headless --no-sandbox", f"--only-categories={','.join(KINDS)}"]
    line += [f"--extra-headers={json.dumps({'Cookie': cookies})}"]
    if desktop:
        line.append("--preset=desktop")
    environ = os.environ | {"CHROME_PATH": "/usr/bin/chromium"}
    told = subprocess.run(line, env=environ, capture_output=True, text=True, check=True).stdout
    found = json.loads(told)["categories"]
    return {kind: 100 * found[kind]["score"] for kind in KINDS}


def main() -> None:
    with tempfile.TemporaryDirectory() as folder, serving() as address:
        command = fetched(Path(folder))
        cookies, pages = signed_in(address)
        print("page, size: " + ", ".join(KINDS))
        for name, at in pages.items():
            for desktop in (False, True):
                loads = [scores(command, at, cookies, desktop) for _ in range(TIMES)]
                medians = [statistics.median(one[kind] for one in loads) for kind in KINDS]
                size = "desktop" if desktop else "phone"
                print(f"{name}, {size}: " + ", ".join(f"{one:.0f}" for one in medians), flush=True)


if __name__ == "__main__":
    main()
