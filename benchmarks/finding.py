"""./kessa bench finding: one of 500 methods, found on the library's page, beside /health/.

A programme of its own with every shipped method and as many variations as make 500. Pages are asked
of the application in this process, so that time and queries are its own. The first request reads
every document once.
"""

import statistics
import time
from pathlib import Path

from django.conf import settings
from django.core.management import call_command
from django.db import connection
from django.test import Client, override_settings
from django.test.utils import CaptureQueriesContext

from kessa.library.models import MethodVersion
from kessa.library.services import take_up
from kessa.platform.adopting import adopt
from kessa.platform.models import Membership, Person, Programme, Role
from kessa_core.drafts import problems, starts
from kessa_core.methods import shipped, shipped_ids
from kessa_core.methods.catalogue import shipped_text

COUNT = 500
TIMES = 40
SLUG = "finding"
ALLOWED = 4.0
ASKED = (
    ("by a word", {"method": "own 317"}),
    ("by parameter and value", {"parameter": "ph", "value": "7"}),
    ("by a limit", {"limit": "ccme-freshwater/chloride-long"}),
    ("everything", {}),
)


def made() -> Programme:
    """The programme, made at the first run."""
    programme, fresh = Programme.objects.get_or_create(slug=SLUG, defaults={"name": "Finding"})
    if fresh:
        person = Person.objects.create_user("finding", password="only-for-the-benchmark")
        Membership.objects.create(programme=programme, person=person, role=Role.MANAGER)
        ids = shipped_ids()
        for key in ids:
            take_up(programme, shipped_text(key))
        for number in range(COUNT - len(ids)):
            draft = starts.from_method(shipped(ids[number % len(ids)]), f"Own {number}")
            take_up(programme, problems.text_of(problems.finished(draft)))
        adopt(programme)
    return programme


def median_ms(
    client: Client, address: str, asked: dict[str, str], headers: dict[str, str]
) -> float:
    """The median of one request, ms."""
    found = []
    for _ in range(TIMES):
        begun = time.perf_counter()
        answer = client.get(address, asked, headers=headers)
        found.append(1000 * (time.perf_counter() - begun))
        assert answer.status_code == 200
    return statistics.median(found)


def main() -> None:
    """The table."""
    made()
    client = Client()
    client.force_login(Person.objects.get(username="finding"))
    address = f"/p/{SLUG}/library/"
    parts = {"HX-Request": "true", "HX-Target": "found-methods"}
    begun = time.perf_counter()
    client.get(address)
    first = time.perf_counter() - begun
    in_use = MethodVersion.objects.filter(programme__slug=SLUG).count()
    print(f"{in_use} methods; the first request of a process takes {first:.1f} s\n")
    health = median_ms(client, "/health/", {}, {})
    print(f"/health/: {health:.1f} ms; allowed: {ALLOWED:g} times that\n")
    print("| found | ms | times /health/ | queries |\n| --- | --- | --- | --- |")
    for name, asked in ASKED:
        client.get(address, asked, headers=parts)
        with CaptureQueriesContext(connection) as queries:
            client.get(address, asked, headers=parts)
        asked_of = len(queries)
        took = median_ms(client, address, asked, parts)
        print(f"| {name} | {took:.1f} | {took / health:.1f} | {asked_of} |")


if __name__ == "__main__":
    Path(settings.STATIC_ROOT).mkdir(parents=True, exist_ok=True)
    call_command("upgrade")
    call_command("collectstatic", interactive=False, verbosity=0)
    with override_settings(ALLOWED_HOSTS=["*"], RELEASE="bench"):
        main()
