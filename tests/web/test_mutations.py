"""Mutated requests to every address: no 500, no leak, nothing but clear answers.

A sample; ./kessa bench fuzz sends five thousand.
"""

import json
import os
import random
import uuid
from datetime import date
from urllib.parse import urlencode

from django.test import Client, TestCase
from django.utils import timezone

from kessa.library.cases import make_case
from kessa.library.drafts import begin as begin_draft
from kessa.library.equipment import note_instrument
from kessa.library.models import Lot
from kessa.people.device_tokens import allow, revoke
from kessa.people.members import invite
from kessa.places.limit_drafts import begin_copy
from kessa.platform.models import Membership
from kessa.visits.models import VisitEvent
from kessa.visits.services import begin
from kessa.visits.sets import make_set
from kessa.visits.water_events import note_event
from kessa_core.drafts.starts import from_method
from kessa_core.methods.catalogue import shipped
from tests.builders.people import Room
from tests.builders.photographs import photographed_test
from tests.builders.runs import Taps
from tests.web.test_permissions import TABLE

REQUESTS = int(os.environ.get("KESSA_REQUESTS", "600"))
NAMES = sorted(TABLE)
"""Asked for in turn, so that each is asked for."""
SECRET = "Undine Hollow"
ANSWERS = {200, 302, 400, 401, 403, 404, 405, 409, 413, 422, 429}
VALUES = (
    "", "0", "-1", "1", "999999999999", "9" * 400, "1e400", "NaN", "null", "true", "[]", "{}",
    "\x00", "a\x00b", "ü" * 300, "\U0001f9ea" * 200, "<script>alert(1)</script>", "'; DROP TABLE",
    "../../etc/passwd", "%00%ff", "2026-13-45", "2026-02-30T25:61", "0001-01-01T00:00", "reviewer",
    "monitor", "plain", "struck", "doubt", "first-1", "accept", "reject", "new", "\u202e",
    "x" * 9000,
)  # fmt: skip
FIELDS = (
    "username", "password", "next", "code", "token", "role", "note", "name", "timezone", "method",
    "go", "reason", "more", "weather_now", "weather_before", "water_c", "air_c", "seen", "at",
    "determination", "drops", "kind", "why", "point", "decision", "evaluation", "answer", "q",
    "page", "result", "about", "first", "last", "sign", "parameter", "water", "water_name", "place",
    "dangers", "reagent", "number", "opened", "expires", "shown_name", "old", "new", "pair",
    "limit_set", "getting_there", "own_review", "events", "device", "since", "instrument", "kinds",
    "checked_on", "check_due", "table", "grams", "density", "raw", "unreadable", "sure",
)  # fmt: skip
TYPES = (
    "application/json", "text/plain", "application/x-www-form-urlencoded; charset=utf-7",
    "multipart/form-data", "multipart/form-data; boundary=x", "application/xml", "",
    "application/x-www-form-urlencoded; charset=utf-16", "application/json; charset=utf-16",
    "application/x-www-form-urlencoded; charset=no-such", "multipart/form-data; boundary=\x00",
    "multipart/form-data; charset=utf-32; boundary=b",
)  # fmt: skip


class Mutations(TestCase):
    def setUp(self) -> None:
        self.turn = 0
        self.rng = random.Random(20261125)
        self.ours, theirs = Room(), Room("south-room")
        theirs.point.name = theirs.water.name = SECRET
        theirs.point.save()
        theirs.water.save()
        self.ids = [self.numbers(self.ours), self.numbers(theirs)]
        self.people = list(self.ours.people.values())
        self.tokens = [
            allow(r.new_run().sample.visit, r.monitor, "device-9", "x")[0]
            for r in (self.ours, theirs)
        ]
        dead, made = allow(self.ours.new_run().sample.visit, self.ours.monitor, "device-8", "x")
        revoke(made, self.ours.monitor)
        self.tokens += [dead, "x", "x" * 5000]
        taps = Taps(run=str(self.ids[0]["run"])).before().count(1, "blank").count(7)
        self.events = [event.as_json() for event in taps.events]

    def numbers(self, room: Room) -> dict[str, object]:
        result = room.finished()
        members = Membership.objects.filter(programme=room.programme)
        sample = begin(room.programme, room.monitor, room.point, "chloride-drops-15ml")
        taken = photographed_test(room)
        return {
            "reading": taken.pk,
            "photo": taken.photo,
            "water": room.water.pk,
            "lot": Lot.objects.get(programme=room.programme).pk,
            "instrument": note_instrument(room.programme, None, name="meter").pk,
            "happened": note_event(room.water, None, "rain", timezone.now()).pk,
            "case": make_case(room.programme, None, name="case").pk,
            "point": room.point.pk,
            "run": result.run_id,
            "result": result.pk,
            "visit": result.run.sample.visit_id,
            "sample": sample.pk,
            "set": make_set(
                room.programme,
                None,
                name="Round",
                asked=[{"point": room.point.pk, "methods": ["chloride-drops-15ml"]}],
                rhythm={"kind": "occasion", "occasion": "rain"},
                begins=date(2026, 9, 1),
            ).pk,
            "beside": VisitEvent.objects.create(
                programme=room.programme,
                visit=result.run.sample.visit,
                sample=result.run.sample,
                kind="not-taken",
                by=room.monitor,
                data={"reason": "ice"},
                beside=True,
            ).pk,
            "invitation": invite(room.programme, room.people["manager"], "viewer")[0].pk,
            "member": members.get(role="viewer").pk,
            "last": members.get(role="manager").pk,
            "limits": begin_copy(room.programme, room.monitor, "eu-drinking").pk,
            "last_limits": begin_copy(room.programme, room.monitor, "eu-drinking").pk,
            "draft": begin_draft(
                room.programme,
                room.people["manager"],
                from_method(shipped("chloride-drops-15ml"), "A copy"),
            ).pk,
        }

    def path(self) -> str:
        rng = self.rng
        if rng.random() < 0.75:
            ids = {name: self.one_of(name) for name in self.ids[0]}
            slug = rng.choice(["north-room"] * 8 + ["south-room", "nowhere"])
            self.turn += 1
            return f"/p/{slug}/" + TABLE[NAMES[self.turn % len(NAMES)]][0].format(**ids)
        return "/" + rng.choice(
            ["append/", "append/photograph/", "join/as/", "sign-in/", "sign-in/code/",
             "sign-in/forgotten/", "join/", "password-strength/",
             "account/", "account/name/", "account/password/", "account/codes/", "programmes/new/",
             f"account/devices/{rng.choice([0, 1, 10**30])}/", "health/", "sw.js",
             f"account/leave/{self.ids[1]['last']}/", "account/codes/off/", "sign-in/%00/"]
        )  # fmt: skip

    def one_of(self, name: str) -> object:
        wild = [0, 2**63, 10**40] if name != "run" else [uuid.UUID(int=0), uuid.uuid4()]
        return self.rng.choice([self.ids[0][name]] * 6 + [self.ids[1][name], *wild])

    def form(self) -> dict[str, object]:
        names = self.rng.sample(FIELDS, self.rng.randint(0, 8))
        return {name: self.value() for name in names}

    def value(self) -> object:
        return self.rng.choice([*VALUES, *(str(v) for one in self.ids for v in one.values())])

    def body(self) -> bytes:
        rng = self.rng
        events = [dict(event) for event in rng.sample(self.events, rng.randint(0, 4))]
        for event in events:
            for name in rng.sample(sorted(event), rng.randint(0, 3)):
                event[name] = rng.choice([self.value(), None, [], {}, {"a": {"b": 1}}, 2**70, -1.5])
        sent = {"events": rng.choice([events, events, events, "x", None]), "since": self.form()}
        raw = json.dumps(sent | {"device": self.value()}).encode("utf-8", "surrogatepass")
        form = urlencode(self.form(), errors="replace").encode()
        parts = "".join(
            f'--b\r\nContent-Disposition: form-data; name="{name}"{file}\r\n\r\n{value}\r\n'
            for name, value in self.form().items()
            for file in [rng.choice(["", '; filename="a"'])]
        ).encode("utf-8", "surrogatepass")
        return rng.choice(
            [raw, raw, raw, raw[:-3], b"\xff\xfe" + raw, b"[" * 20_000, rng.randbytes(80), form,
             form.decode().encode("utf-16"), parts, parts + b"--b--",
             parts.decode("latin-1").encode("utf-16")]
        )  # fmt: skip

    def headers(self) -> dict[str, str]:
        rng, found = self.rng, {}
        if rng.random() < 0.3:
            found["HX-Request"] = rng.choice(["true", "x"])
        if rng.random() < 0.3:
            found["X-Kessa-Person"] = rng.choice(["0", "x", "\u00ff", str(self.people[0].pk)])
        if rng.random() < 0.4:
            scheme = rng.choice(["Kessa-Append", "Bearer", ""])
            found["Authorization"] = f"{scheme} {rng.choice(self.tokens)}"
        return found

    def ask(self, client: Client):
        rng, path, headers = self.rng, self.path(), self.headers()
        kind = rng.random()
        if kind < 0.35:
            return path, client.get(path, self.form(), headers=headers)
        if kind < 0.7:
            return path, client.post(path, self.form(), headers=headers)
        if kind < 0.95:
            return path, client.generic(
                "POST", path, self.body(), rng.choice(TYPES), headers=headers
            )
        method = rng.choice(["PUT", "DELETE", "PATCH", "OPTIONS", "HEAD"])
        return path, client.generic(method, path, self.body(), headers=headers)

    def test_mutated_requests(self) -> None:
        """Whatever is sent, by whichever role: a known status, and nothing of the other room."""
        client, seen, asked = Client(raise_request_exception=False), set(), set()
        for number in range(REQUESTS):
            if number % 50 == 0:
                person = self.rng.choice(self.people)
                client = Client(raise_request_exception=False)
                if number % 400:
                    client.force_login(person)
            path, answer = self.ask(client)
            seen.add(answer.status_code)
            match = answer.wsgi_request.resolver_match
            asked.add(match.url_name if match else "")
            with self.subTest(number=number, path=path):
                self.assertLess(answer.status_code, 500)
                said = b"".join(answer) if answer.streaming else answer.content
                self.assertNotIn(SECRET.encode(), said)
                self.assertNotIn(b"Traceback", said)
        self.assertLessEqual({200, 302, 400, 401, 403, 404, 405, 422}, seen)
        self.assertLessEqual(seen, ANSWERS)
        self.assertLessEqual(set(TABLE), asked)
