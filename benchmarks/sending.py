"""One event accepted by the server with 20 benches at once: every bench adds a drop and waits."""

import json
import threading
import time
import urllib.request
from uuid import uuid4

from django.test import Client
from django.utils import timezone
from tools.serving import serving, spread

from kessa.places.models import Point
from kessa.platform.models import Person, Programme
from kessa.runs.services import open_run
from kessa.visits import services as visits

BENCHES, ACTS = 20, 40


def new_run() -> str:
    programme = Programme.objects.get(slug="lowen-vale")
    person = Person.objects.get(username="monitor")
    point = Point.objects.of(programme).first()
    sample = visits.begin(programme, person, point, "chloride-drops-15ml")
    visits.take(sample, person, timezone.now(), "UTC")
    return str(open_run(sample, person).pk)


def bench(address: str, run: str, cookie: str, times: list[float]) -> None:
    token = "a" * 32
    for number in range(1, ACTS + 1):
        event = {
            "v": 1, "id": str(uuid4()), "run": run, "act": "drop", "data": {}, "device": run,
            "seq": number, "lamport": number, "at": timezone.now().isoformat(), "mono_ms": 0,
        }  # fmt: skip
        request = urllib.request.Request(
            f"{address}/p/lowen-vale/events/",
            json.dumps({"events": [event]}).encode(),
            {
                "Content-Type": "application/json",
                "Cookie": f"sessionid={cookie}; csrftoken={token}",
                "X-CSRFToken": token,
            },
        )
        begun = time.perf_counter()
        with urllib.request.urlopen(request) as answer:
            kept = json.load(answer)["kept"]
        times.append((time.perf_counter() - begun) * 1000)
        if kept != [event["id"]]:
            raise RuntimeError("an event was not kept")
        time.sleep(1.0)


with serving() as address:
    client = Client()
    client.force_login(Person.objects.get(username="monitor"))
    cookie = client.cookies["sessionid"].value
    times: list[float] = []
    runs = [new_run() for _ in range(BENCHES)]
    threads = [threading.Thread(target=bench, args=(address, run, cookie, times)) for run in runs]
    for thread in threads:
        thread.start()
        time.sleep(0.05)
    for thread in threads:
        thread.join()
    print(f"{BENCHES} benches, one act a second each, {len(times)} acts:", spread(times))
