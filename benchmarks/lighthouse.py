"""Lighthouse on the main pages, phone and desktop: the median of several loads.

./kessa bench lighthouse [TIMES]: five loads a page unless said otherwise. Lighthouse comes from the
npm registry into a folder that is thrown away.
"""

import json
import statistics
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from playwright.sync_api import sync_playwright
from tools.serving import serving
from tools.shots import sign_in, to_the_bench, to_the_water

from kessa_launch.ports import free

LIGHTHOUSE = "lighthouse@12.8.2"
TIMES = int(sys.argv[1]) if len(sys.argv) > 1 else 5
KINDS = ("performance", "accessibility", "best-practices", "seo")
POINT = "points/1/"


def fetched(folder: Path) -> Path:
    """The command, installed into *folder*."""
    line = ["npm", "install", "--silent", "--no-audit", "--prefix", str(folder), LIGHTHOUSE]
    subprocess.run(line, check=True)
    return folder / "node_modules" / ".bin" / "lighthouse"


@contextmanager
def signed_in(address: str, folder: Path) -> Iterator[tuple[int, dict[str, str]]]:
    """A browser in which somebody is signed in: the port it listens at, and the pages to load, a
    bench among them."""
    port = free(9300)
    with sync_playwright() as playwright:
        context = playwright.chromium.launch_persistent_context(
            str(folder),
            executable_path="/usr/bin/chromium",
            args=["--no-sandbox", f"--remote-debugging-port={port}"],
        )
        page = context.new_page()
        sign_in(page, address)
        base = f"{address}/p/lowen-vale/"
        page.goto(base + POINT)
        to_the_water(page)
        to_the_bench(page)
        pages = {"Today": base + "today/", "point": base + POINT, "log": base + "log/",
                 "library": base + "library/", "bench": page.url}  # fmt: skip
        page.close()
        yield port, pages
        context.close()


def loaded(command: Path, address: str, port: int, *, desktop: bool, told: Path) -> dict[str, Any]:
    """What Lighthouse says of one load; *told*: the file that it writes."""
    line = [str(command), address, "--quiet", "--output=json", f"--output-path={told}"]
    line += [f"--port={port}", f"--only-categories={','.join(KINDS)}"]
    if desktop:
        line.append("--preset=desktop")
    subprocess.run(line, check=True)
    found: dict[str, Any] = json.loads(told.read_text("utf-8"))
    return found


def wanting(report: dict[str, Any]) -> list[str]:
    """The audits that cost points, with what they measured."""
    audits = report["audits"]
    weighed = [ref for kind in report["categories"].values() for ref in kind["auditRefs"]]
    return [
        f"{ref['id']} {audits[ref['id']].get('displayValue', '')}".strip()
        for ref in weighed
        if ref["weight"] and (audits[ref["id"]]["score"] or 0) < 0.9
    ]


def main() -> None:
    with tempfile.TemporaryDirectory() as scratch, serving() as address:
        command = fetched(Path(scratch))
        told = Path(scratch) / "report.json"
        print("page, size: " + ", ".join(KINDS))
        with signed_in(address, Path(scratch) / "profile") as (port, pages):
            for name, at in pages.items():
                for size in ("phone", "desktop"):
                    loads = [
                        loaded(command, at, port, desktop=size == "desktop", told=told)
                        for _ in range(TIMES)
                    ]
                    medians = [
                        statistics.median(100 * one["categories"][kind]["score"] for one in loads)
                        for kind in KINDS
                    ]
                    scores = ", ".join(f"{one:.0f}" for one in medians)
                    lost = f" ({'; '.join(wanting(loads[-1]))})" if min(medians) < 98 else ""
                    print(f"{name}, {size}: {scores}{lost}", flush=True)


if __name__ == "__main__":
    main()
