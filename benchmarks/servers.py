"""./kessa bench servers: two application servers, two workers, one PostgreSQL and a streaming
replica for exports and charts, on loopback. What must hold is asserted; times are printed."""

import json
import os
import random
import signal
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.db import connections, transaction
from django.test import Client
from procrastinate.contrib.django.models import ProcrastinateJob
from tests.builders.people import Room
from tests.builders.runs import Taps

from kessa.flows.limits import change_limits
from kessa.library.equipment import note_lot
from kessa.platform.models import AuditChain, AuditEntry
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.runs.models import Event, Run
from kessa.verdicts.services import current_verdicts
from kessa_launch.children import WORKER

APPLICATION = os.environ | {"KESSA_DB_AS": ""}
"""Servers and workers sign in as the application, this benchmark as the owner."""
PORTS = (8191, 8192)
RUNS = 16
CHANGES = 6
SETS = ("epa-freshwater", "ccme-freshwater")


@contextmanager
def process(*arguments: str) -> Iterator[subprocess.Popen[bytes]]:
    """A command of the environment's Python, ended with the block."""
    with subprocess.Popen([sys.executable, "-m", *arguments], env=APPLICATION) as child:
        try:
            yield child
        finally:
            child.terminate()


def server(port: int) -> tuple[str, ...]:
    """One application server of two processes."""
    options = ("--workers", "2", "--threads", "4", "--log-level", "warning")
    return ("gunicorn", "kessa.wsgi", "--bind", f"127.0.0.1:{port}", *options)


def ask(room: Room, cookie: str, port: int, path: str, body: bytes | None = None) -> bytes:
    """What one server answers the manager."""
    token = "a" * 32
    headers = {"Cookie": f"sessionid={cookie}; csrftoken={token}", "X-CSRFToken": token}
    if body is not None:
        headers["Content-Type"] = "application/json"
    request = urllib.request.Request(f"http://127.0.0.1:{port}{room.url(path)}", body, headers)
    with urllib.request.urlopen(request, timeout=60) as answer:
        content: bytes = answer.read()
    return content


def wait_until_up(room: Room, cookie: str) -> None:
    """Until both servers answer."""
    for port in PORTS:
        for _ in range(300):
            try:
                ask(room, cookie, port, "today/")
                break
            except OSError:
                time.sleep(0.1)


def send(room: Room, cookie: str, runs: Sequence[Run], drawn: random.Random) -> None:
    """Each run's acts in small batches, every batch to both servers at the same moment."""
    for run in runs:
        taps = Taps(run.version.method, run=str(run.pk)).before()
        taps.count(1, "blank").count(7).count(8)
        left = [event.as_json() for event in taps.events]
        while left:
            some, left = left[: (cut := drawn.randint(1, 4))], left[cut:]
            body = json.dumps({"events": some}).encode()
            both = [
                threading.Thread(target=ask, args=(room, cookie, port, "events/", body))
                for port in PORTS
            ]
            for thread in both:
                thread.start()
            for thread in both:
                thread.join()


def until_done(seconds: float = 180.0) -> float:
    """How long it takes until no job is left."""
    begun = time.perf_counter()
    asked = ProcrastinateJob.objects.filter(task_name="judge_water")
    while asked.exists():
        if time.perf_counter() - begun > seconds:
            raise RuntimeError(f"jobs are left: {list(asked.values('status', 'task_name'))}")
        time.sleep(0.1)
    return time.perf_counter() - begun


def acts_and_locks(room: Room, cookie: str) -> None:
    """Sixteen runs sent to both servers at once, while the limits change and files are fetched."""
    runs = [room.new_run() for _ in range(RUNS)]
    manager, begun = room.people["manager"], time.perf_counter()
    threads = [
        threading.Thread(target=send, args=(room, cookie, runs[at::4], random.Random(at)))
        for at in range(4)
    ]
    for thread in threads:
        thread.start()
    start = Result.objects.oldest_first().values_list("sampled_at", flat=True)[0]
    for number in range(CHANGES):
        change_limits(room.water, manager, SETS[number % 2], start)
        for port in PORTS:
            ask(room, cookie, port, "log.csv")
            ask(room, cookie, port, f"points/{room.point.pk}/")
    for thread in threads:
        thread.join()
    until_done()
    took = time.perf_counter() - begun
    count = Event.objects.filter(run__in=runs).count()
    figure = Result.objects.oldest_first().values_list("current__figure", flat=True)[0]
    for run in runs:
        numbers = sorted(Event.objects.of_run(run).values_list("seq", flat=True))
        assert numbers == list(range(1, len(numbers) + 1)), (run.pk, numbers)
        result = Result.objects.get(run=run)
        assert result.current and result.current.figure == figure, (run.pk, figure)
        held = current_verdicts(result)[0].limit
        assert held and held.limit_set == SETS[(CHANGES - 1) % 2], held
    print(f"{count} acts of {RUNS} runs to both servers, each kept once; {CHANGES} changes of")
    print(f"limits judged by two workers, the last one holds for all: {took:.1f} s")


def killed_worker(room: Room) -> None:
    """A worker is killed at work; the job is done again by another one."""
    start = Result.objects.oldest_first().values_list("sampled_at", flat=True)[0]
    change_limits(room.water, room.people["manager"], SETS[CHANGES % 2], start)
    with transaction.atomic():
        AuditChain.objects.select_for_update().get(programme=room.programme)
        with process("kessa", *WORKER) as first:
            while not ProcrastinateJob.objects.filter(status="doing").exists():
                time.sleep(0.05)
            first.send_signal(signal.SIGKILL)
            first.wait()
    with process("kessa", *WORKER):
        print(f"a job whose worker was killed is done by another one after {until_done():.0f} s")


def replica_reads(room: Room, cookie: str) -> None:
    """Exports come from the replica, whole, with what was written the moment before."""
    before, waits = commits("replica"), []
    for number in range(20):
        note_lot(room.programme, room.people["manager"], reagent="starch", number=f"S-{number}")
        begun = time.perf_counter()
        lines = ask(room, cookie, PORTS[number % 2], "audit.jsonl").decode().splitlines()
        waits.append((time.perf_counter() - begun) * 1000)
        assert f"lot S-{number}" in lines[-2], lines[-2]
    files = {ask(room, cookie, port, "log.csv") for port in PORTS}
    assert len(files) == 1, "the two servers export different logs"
    read = commits("replica") - before
    assert read >= 20, f"the replica was read {read} times"
    print(f"20 exports right after a write, each with it: {sorted(waits)[10]:.0f} ms (median)")


def commits(name: str) -> int:
    """How many transactions a server has ended."""
    time.sleep(1.5)  # the server's own counts follow a second later
    with connections[name].cursor() as cursor:
        cursor.execute(
            "SELECT xact_commit FROM pg_stat_database WHERE datname = current_database()"
        )
        return int(cursor.fetchone()[0])


if __name__ == "__main__":
    Path(settings.STATIC_ROOT).mkdir(parents=True, exist_ok=True)
    call_command("upgrade")
    call_command("collectstatic", interactive=False, verbosity=0)
    room = Room("servers")
    for day in range(30):
        room.finished(days_ago=day + 1)
    client = Client()
    client.force_login(room.people["manager"])
    cookie = client.cookies["sessionid"].value
    killed_worker(room)
    with ExitStack() as stack:
        for port in PORTS:
            stack.enter_context(process(*server(port)))
        wait_until_up(room, cookie)
        for _ in range(2):
            stack.enter_context(process("kessa", *WORKER))
        acts_and_locks(room, cookie)
        replica_reads(room, cookie)
    errors = list(find_errors(room.programme))
    assert not errors, errors
    print(f"audit: {AuditEntry.objects.of(room.programme).count()} entries, no error")
