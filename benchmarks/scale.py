"""./kessa bench scale: pages, exports and judging again on the database that `fill` made.

Pages are asked of the application in this process, so that time, queries and memory are its own.
"""

import gc
import statistics
import subprocess
import sys
import time
import tracemalloc
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.template import engines
from django.test import Client, override_settings
from django.test.utils import CaptureQueriesContext
from django.urls import path

from kessa import urls as project
from kessa.flows.limits import change_limits
from kessa.library.models import MethodVersion
from kessa.places.models import LimitAttachment, Point, Water
from kessa.platform.models import Programme
from kessa.platform.permissions import Permission, needs
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.verdicts.models import Verdict
from kessa_launch.children import WORKER

TIMES = 25
REFERENCE = Path(__file__).parent / "templates" / "reference.html"
ALLOWED = 4.0
MOST_QUERIES = 15


@needs(Permission.VIEW)
def reference(request: HttpRequest) -> HttpResponse:
    """The signed-in base page with one indexed row."""
    point = Point.objects.of(request.programme).first()
    page = engines["django"].from_string(REFERENCE.read_text())
    return HttpResponse(page.render({"point": point}, request))


urlpatterns = [path("p/<slug:programme>/reference/", reference), *project.urlpatterns]


def pages(programme: Programme) -> dict[str, str]:
    """Every page that must not grow, by name."""
    result = Result.objects.of(programme).newest_first()[50]
    point = Point.objects.of(programme).first()
    method = MethodVersion.objects.of(programme).newest().first()
    return {
        "Today": "today/",
        "waters": "waters/",
        "point": f"points/{point.pk}/",
        "log, first page": "log/",
        "log, last page": "log/?end=1",
        "log, one verdict": "log/?sign=within",
        "log, one point": f"log/?point={point.pk}",
        "review": "review/",
        "search": f"search/?q={point.name.split()[0]}",
        "search, two words": "search/?q=ph+mark",
        "library": "library/",
        "method": f"library/{method.method_id}/{method.number}/",
        "result": f"results/{result.pk}/",
        "audit, first page": "audit/",
        "audit, last page": "audit/?end=1",
        "audit of one run": f"audit/?about=run:{result.run_id}&acts=all",
    }


def measure(*ways: Callable[[], Any]) -> list[float]:
    """The median time of each in ms. They take turns, so that a busy while burdens all alike."""
    for ask in ways:
        ask()
    times: list[list[float]] = [[] for _ in ways]
    for _ in range(TIMES):
        for ask, taken in zip(ways, times, strict=True):
            begun = time.perf_counter()
            ask()
            taken.append((time.perf_counter() - begun) * 1000)
    return [statistics.median(taken) for taken in times]


def table(client: Client, slug: str, programme: Programme) -> None:
    """Each page's time against the reference page, its queries and its memory."""
    print("| page | ms | times the reference | queries | peak memory, MB |")
    print("| --- | --- | --- | --- | --- |")
    for name, address in pages(programme).items():
        url = f"/p/{slug}/{address}"
        client.get(url)
        with CaptureQueriesContext(connection) as seen:
            answer = client.get(url)
        queries = len(seen)
        if answer.status_code != 200:
            raise RuntimeError(f"{url} answers {answer.status_code}")
        base, took = measure(
            lambda: client.get(f"/p/{slug}/reference/"), lambda url=url: client.get(url)
        )
        gc.collect()
        tracemalloc.start()
        client.get(url)
        peak = tracemalloc.get_traced_memory()[1] / 1e6
        tracemalloc.stop()
        marks = "" if took <= ALLOWED * base and queries <= MOST_QUERIES else " !"
        print(
            f"| {name} | {took:.1f} | {took / base:.1f}{marks} | {queries} | {peak:.1f} |",
            flush=True,
        )


def export(client: Client, url: str) -> None:
    """Rows a second, and the memory that it took."""
    gc.collect()
    tracemalloc.start()
    answer = client.get(url)
    for number, _ in enumerate(answer):
        if number == 1000:
            break
    peak = tracemalloc.get_traced_memory()[1] / 1e6
    tracemalloc.stop()
    begun, lines = time.perf_counter(), 0
    for piece in client.get(url):
        lines += piece.count(b"\n")
    took = time.perf_counter() - begun
    print(f"{url}: {lines:,} lines, {lines / took:,.0f} a second, peak {peak:.1f} MB", flush=True)


def judging() -> None:
    """Another limit set at every water of every programme from its first sample on, judged again by
    the worker, as demo and serve start it."""
    manager = get_user_model().objects.get(username="manager-bench-00")
    newest = LimitAttachment.objects.order_by("-pk").values_list("limit_set", flat=True)[0]
    other = "ccme-freshwater" if newest == "epa-freshwater" else "epa-freshwater"
    for programme in Programme.objects.order_by("slug"):
        for water in Water.objects.of(programme):
            change_limits(water, manager, other, programme_start(programme))
    before, begun = Verdict.objects.count(), time.perf_counter()
    command = [sys.executable, "-m", "kessa", *WORKER, "--one-shot"]
    subprocess.run(command, check=True, capture_output=True)
    took, looked_at = time.perf_counter() - begun, Result.objects.count()
    print(
        f"judging again: {looked_at:,} results looked at, {Verdict.objects.count() - before:,} "
        f"new verdicts, {took:.0f} s, {looked_at / took:,.0f} results a second"
    )


def programme_start(programme: Programme) -> Any:
    """A moment before its first sample."""
    return Result.objects.of(programme).order_by("sampled_at").values_list("sampled_at")[0][0]


if __name__ == "__main__":
    Path(settings.STATIC_ROOT).mkdir(parents=True, exist_ok=True)
    call_command("upgrade")
    call_command("collectstatic", interactive=False, verbosity=0)
    programme = Programme.objects.get(slug="bench-00")
    with override_settings(ROOT_URLCONF=__name__, ALLOWED_HOSTS=["*"], RELEASE="bench"):
        client = Client()
        client.force_login(get_user_model().objects.get(username="manager-bench-00"))
        print(f"{Result.objects.count():,} results in {Programme.objects.count()} programmes")
        table(client, "bench-00", programme)
        export(client, "/p/bench-00/log.csv")
        export(client, "/p/bench-00/audit.jsonl")
    begun = time.perf_counter()
    errors = sum(1 for _ in find_errors(programme))
    print(f"audit of one programme: {errors} errors, {time.perf_counter() - begun:.0f} s")
    judging()
