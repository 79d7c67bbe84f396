"""URL × role × programme × signed out: every URL of the resolver stands in a table, and the table
is what happens."""

from datetime import date

from django.test import TestCase
from django.urls import resolve, reverse
from django.utils import timezone

from kessa.library.cases import make_case
from kessa.library.drafts import begin as begin_draft
from kessa.library.equipment import note_instrument
from kessa.library.models import Lot
from kessa.people.members import invite
from kessa.places.limit_drafts import begin_copy
from kessa.platform.models import Membership
from kessa.platform.permissions import every_pattern, undeclared
from kessa.visits.models import Sample, VisitEvent
from kessa.visits.services import begin
from kessa.visits.sets import make_set
from kessa.visits.water_events import note_event
from kessa_core.drafts.starts import from_method
from kessa_core.methods.catalogue import shipped
from tests.builders.people import Room
from tests.builders.photographs import photographed_test

ALL = ("viewer", "monitor", "reviewer", "manager")
TESTERS = ("monitor", "reviewer", "manager")
REVIEWERS = ("reviewer", "manager")
MANAGERS = ("manager",)
# name: (path in the programme, method, who may)
NEEDS_AN_OPEN_RUN = (
    "cancel-run", "change-run", "delay-test", "end-run", "hand-over-run", "leave-out",
    "run-instrument", "run-lot",
)  # fmt: skip
TABLE = {
    "today": ("today/", "get", ALL),
    "today-stock": ("today/stock/", "get", ALL),
    "waters": ("waters/", "get", ALL),
    "water-judging": ("waters/{water}/judging/", "get", ALL),
    "calculator": ("calculator/", "get", ALL),
    "calculation": ("calculator/dose/", "get", ALL),
    "targets": ("waters/{water}/targets/", "get", MANAGERS),
    "change-water": ("waters/{water}/change/", "get", MANAGERS),
    "new-point": ("points/new/", "get", MANAGERS),
    "point": ("points/{point}/", "get", ALL),
    "limits-of-its-water": ("points/{point}/limits-of-its-water/", "post", MANAGERS),
    "usual": ("points/{point}/usual/", "get", MANAGERS),
    "point-photo": ("points/{point}/photograph/", "get", TESTERS),
    "change-point": ("points/{point}/change/", "get", MANAGERS),
    "change-test": ("samples/{sample}/change/", "post", TESTERS),
    "cancel-sample": ("samples/{sample}/cancel/", "post", TESTERS),
    "cancel-run": ("bench/{run}/cancel/", "post", TESTERS),
    "change-run": ("bench/{run}/change/", "post", TESTERS),
    "end-run": ("bench/{run}/end/", "post", TESTERS),
    "hand-over-run": ("bench/{run}/hand-over/", "post", TESTERS),
    "run-instrument": ("bench/{run}/instrument/", "post", TESTERS),
    "run-lot": ("bench/{run}/lot/", "post", TESTERS),
    "choose-tests": ("points/{point}/several/", "get", TESTERS),
    "new-visit": ("visits/new/", "get", TESTERS),
    "visit": ("visits/{visit}/", "get", ALL),
    "add-tests": ("visits/{visit}/add/", "get", TESTERS),
    "beside-the-test": ("visits/{visit}/beside/{run}/", "get", TESTERS),
    "end-visit": ("visits/{visit}/end/", "get", TESTERS),
    "decide-record": ("visits/{visit}/decide/{beside}/", "post", TESTERS),
    "on-this-device": ("on-this-device/", "get", TESTERS),
    "visit-people": ("visits/{visit}/people/", "post", TESTERS),
    "leave-out": ("visits/{visit}/leave/{run}/", "post", TESTERS),
    "delay-test": ("visits/{visit}/delay/{run}/", "post", TESTERS),
    "visit-report": ("visits/{visit}/report/", "get", ALL),
    "visit-sheet": ("visits/{visit}/sheet/", "get", ALL),
    "entry": ("entry/", "get", TESTERS),
    "entry-sheet": ("entry/sheet/?method=chloride-drops-15ml", "get", TESTERS),
    "entry-preview": ("entry/preview/?method=chloride-drops-15ml", "post", TESTERS),
    "entry-paste": ("entry/paste/?method=chloride-drops-15ml", "get", TESTERS),
    "sets": ("sets/", "get", ALL),
    "new-set": ("sets/new/", "get", MANAGERS),
    "set": ("sets/{set}/", "get", ALL),
    "change-set": ("sets/{set}/change/", "get", MANAGERS),
    "set-tests": ("sets/{set}/points/{point}/", "get", MANAGERS),
    "set-due": ("sets/{set}/due/", "post", TESTERS),
    "begin-set": ("sets/{set}/begin/", "post", TESTERS),
    "set-packing": ("sets/{set}/packing/", "get", ALL),
    "set-sheet": ("sets/{set}/sheet/", "get", ALL),
    "set-labels": ("sets/{set}/labels/", "get", ALL),
    "sets-calendar": ("sets.ics", "get", ALL),
    "allow-feed": ("sets/calendar/", "post", ALL),
    "withdraw-feed": ("sets/calendar/withdraw/", "post", ALL),
    "test-menu": ("points/{point}/tests/", "get", TESTERS),
    "favourite-test": ("points/{point}/tests/favourite/", "post", TESTERS),
    "water": ("waters/{water}/", "get", ALL),
    "bring-points": ("points/bring/", "get", MANAGERS),
    "points-geojson": ("points.geojson", "get", ALL),
    "points-csv": ("points.csv", "get", ALL),
    "parameters": ("parameters/", "get", ALL),
    "parameter": ("parameters/chloride/", "get", ALL),
    "water-events": ("points/{point}/events/", "get", TESTERS),
    "withdraw-event": ("points/{point}/events/{happened}/withdraw/", "post", TESTERS),
    "begin-test": ("points/{point}/test/", "post", TESTERS),
    "safety": ("samples/{sample}/safety/", "get", TESTERS),
    "context": ("samples/{sample}/context/", "get", TESTERS),
    "take-sample": ("samples/{sample}/sample/", "get", TESTERS),
    "bench-list": ("bench/", "get", ALL),
    "bench": ("bench/{run}/", "get", TESTERS),
    "capability": ("bench/{run}/capability/", "post", TESTERS),
    "events": ("events/", "post", TESTERS),
    "send-photograph": ("photographs/send/", "post", TESTERS),
    "readings": ("readings/", "get", ALL),
    "read-photograph": ("readings/{reading}/", "get", TESTERS),
    "read-again": ("readings/{reading}/again/", "post", TESTERS),
    "photograph": ("photographs/{photo}.jpg", "get", ALL),
    "log": ("log/", "get", ALL),
    "log-csv": ("log.csv", "get", ALL),
    "result": ("results/{result}/", "get", ALL),
    "result-budget": ("results/{result}/budget/", "get", ALL),
    "result-settling": ("results/{result}/settling/", "get", ALL),
    "result-acts": ("results/{result}/acts/", "get", ALL),
    "result-events": ("results/{result}/events.jsonl", "get", ALL),
    "correct-reading": ("results/{result}/correct/", "get", TESTERS),
    "correct-sample": ("results/{result}/correct-sample/", "get", TESTERS),
    "answer": ("results/{result}/answer/", "post", TESTERS),
    "review": ("review/", "get", REVIEWERS),
    "decide": ("review/{result}/", "post", REVIEWERS),
    "limits": ("limits/", "get", ALL),
    "limit": ("limits/ccme-freshwater/chloride-long/", "get", ALL),
    "limit-schema": ("limits/schema.json", "get", ALL),
    "limit-set": ("limits/set/eu-drinking/", "get", ALL),
    "limit-set-file": ("limits/set/eu-drinking/file/", "get", ALL),
    "limit-set-compare": ("limits/set/eu-drinking/compare/?with=who-drinking", "get", ALL),
    "limit-set-copy": ("limits/set/eu-drinking/copy/", "post", MANAGERS),
    "limit-set-attach": ("limits/set/eu-drinking/attach/", "get", MANAGERS),
    "limit-draft-begin": ("limits/new/", "post", MANAGERS),
    "limit-draft": ("limits/drafts/{limits}/", "get", MANAGERS),
    "limit-draft-add": ("limits/drafts/{limits}/add/?parameter=ph", "get", MANAGERS),
    "limit-draft-limit": ("limits/drafts/{limits}/limits/lead/", "get", MANAGERS),
    "limit-draft-text": ("limits/drafts/{limits}/text/", "get", MANAGERS),
    "limit-draft-publish": ("limits/drafts/{limits}/publish/", "post", MANAGERS),
    "limit-draft-discard": ("limits/drafts/{last_limits}/discard/", "post", MANAGERS),
    "lot": ("lots/{lot}/", "get", ALL),
    "lot-csv": ("lots/{lot}/results.csv", "get", ALL),
    "lot-computing": ("lots/{lot}/computing/", "get", ALL),
    "correct-lot": ("lots/{lot}/correct/", "get", REVIEWERS),
    "measure-standard": ("lots/{lot}/standard/", "get", TESTERS),
    "instrument": ("instruments/{instrument}/", "get", ALL),
    "instrument-csv": ("instruments/{instrument}/results.csv", "get", ALL),
    "library": ("library/", "get", ALL),
    "new-lot": ("library/lots/new/", "get", TESTERS),
    "new-case": ("library/cases/new/", "get", TESTERS),
    "edit-case": ("library/cases/{case}/", "get", TESTERS),
    "new-instrument": ("library/instruments/new/", "get", TESTERS),
    "edit-instrument": ("library/instruments/{instrument}/edit/", "get", TESTERS),
    "check-instrument": ("library/instruments/{instrument}/check/", "get", TESTERS),
    "method": ("library/chloride-drops-15ml/4/", "get", ALL),
    "choices": ("library/chloride-drops-15ml/choices/", "get", MANAGERS),
    "use-newer": ("library/chloride-drops-15ml/newer/", "post", MANAGERS),
    "compare": ("library/compare/?method=ph-meter&method=ph-tablets", "get", ALL),
    "shipped-method": ("library/ph-meter/shipped/", "get", ALL),
    "shipped-card": ("library/ph-meter/shipped/card/", "get", ALL),
    "shipped-sheet": ("library/ph-meter/shipped/sheet/", "get", ALL),
    "field-card": ("library/chloride-drops-15ml/4/card/", "get", ALL),
    "data-sheet": ("library/chloride-drops-15ml/4/sheet/", "get", ALL),
    "method-file": ("library/chloride-drops-15ml/4/file/", "get", ALL),
    "next-version": ("library/chloride-drops-15ml/next/", "post", MANAGERS),
    "begin-method": ("kits/", "get", MANAGERS),
    "bring-in": ("kits/file/", "get", MANAGERS),
    "draft": ("kits/{draft}/", "get", MANAGERS),
    "change-draft": ("kits/{draft}/change/", "post", MANAGERS),
    "draft-text": ("kits/{draft}/text/", "get", MANAGERS),
    "try-draft": ("kits/{draft}/try/", "post", MANAGERS),
    "try-by-hand": ("kits/{draft}/by-hand/", "get", MANAGERS),
    "publish-draft": ("kits/{draft}/publish/", "post", MANAGERS),
    "close-draft": ("kits/{draft}/close/", "post", MANAGERS),
    "search": ("search/?q=beck", "get", ALL),
    "people": ("people/", "get", ALL),
    "invite": ("people/invite/", "post", MANAGERS),
    "withdraw-invitation": ("people/codes/{invitation}/withdraw/", "post", MANAGERS),
    "member": ("people/{member}/", "get", MANAGERS),
    "member-role": ("people/{member}/role/", "post", MANAGERS),
    "member-withdraw": ("people/{last}/withdraw/", "post", MANAGERS),
    "member-reset": ("people/{member}/reset/", "post", MANAGERS),
    "member-pseudonymise": ("people/{member}/pseudonymise/", "post", MANAGERS),
    "settings": ("settings/", "get", MANAGERS),
    "work": ("settings/work/", "get", MANAGERS),
    "audit": ("audit/", "get", REVIEWERS),
    "audit-export": ("audit.jsonl", "get", REVIEWERS),
}
# A person's own: signed in is enough, and another person's objects do not exist.
OWN = {
    "home": "get",
    "programmes": "get",
    "new-programme": "get",
    "account": "get",
    "account-name": "post",
    "account-password": "post",
    "codes": "get",
    "codes-off": "post",
    "sign-out-device": "post",
    "revoke-device": "post",
    "revoke-every-device": "post",
    "leave": "post",
    "leave-for-good": "post",
}
PUBLIC = {
    "sign-in": 200,
    "sign-in-code": 302,
    "forgotten": 200,
    "password-strength": 405,
    "sign-out": 405,
    "join": 200,
    "join-as": 302,
    "service-worker": 200,
    "health": 200,
    "style": 404,
}
BY_CAPABILITY = {"append", "append-photograph", "calendar-feed"}
JSON = {"events", "capability", "entry-preview", "send-photograph"}


class Permissions(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.room, cls.foreign = Room(), Room("south-room")
        cls.result = cls.room.finished()
        invitation, _ = invite(cls.room.programme, cls.room.people["manager"], "viewer")
        members = Membership.objects.filter(programme=cls.room.programme)
        cls.ids = {
            "water": cls.room.water.pk,
            "lot": Lot.objects.get(programme=cls.room.programme).pk,
            "instrument": note_instrument(cls.room.programme, None, name="meter").pk,
            "limits": begin_copy(cls.room.programme, cls.room.monitor, "eu-drinking").pk,
            "last_limits": begin_copy(cls.room.programme, cls.room.monitor, "eu-drinking").pk,
            "happened": note_event(cls.room.water, None, "rain", timezone.now()).pk,
            "case": make_case(cls.room.programme, None, name="case").pk,
            "point": cls.room.point.pk,
            "run": cls.result.run_id,
            "result": cls.result.pk,
            "visit": cls.result.run.sample.visit_id,
            "set": make_set(
                cls.room.programme,
                None,
                name="Round",
                asked=[{"point": cls.room.point.pk, "methods": ["chloride-drops-15ml"]}],
                rhythm={"kind": "occasion", "occasion": "rain"},
                begins=date(2026, 9, 1),
            ).pk,
            "invitation": invitation.pk,
            "member": members.get(role="viewer").pk,
            "draft": begin_draft(
                cls.room.programme,
                cls.room.people["manager"],
                from_method(shipped("chloride-drops-15ml"), "A copy"),
            ).pk,
            "last": members.get(role="manager").pk,
        }
        taken = photographed_test(cls.room)
        cls.ids |= {"reading": taken.pk, "photo": taken.photo}
        cls.ids["sample"] = cls.begun().pk
        cls.ids["beside"] = cls.contradicted().pk

    @classmethod
    def begun(cls) -> Sample:
        """A sample on the way."""
        return begin(cls.room.programme, cls.room.monitor, cls.room.point, "chloride-drops-15ml")

    @classmethod
    def contradicted(cls) -> VisitEvent:
        """A second record of the sample, over which nobody has decided."""
        return VisitEvent.objects.create(
            programme=cls.room.programme,
            visit_id=cls.ids["visit"],
            sample=cls.result.run.sample,
            kind="not-taken",
            by=cls.room.monitor,
            data={"reason": "ice"},
            beside=True,
        )

    def ask(self, name: str, room: Room) -> int:
        path, method, _ = TABLE[name]
        ids = self.ids
        if name in NEEDS_AN_OPEN_RUN:
            run = self.room.new_run()
            ids = ids | {"run": run.pk, "visit": run.sample.visit_id}
        elif name == "decide-record":
            ids = ids | {"beside": self.contradicted().pk}
        elif name == "cancel-sample":
            ids = ids | {"sample": self.begun().pk}
        data: dict[str, object] = {}
        if method == "post":
            data = {"method": "chloride-drops-15ml", "role": "viewer", "to": self.ids["last"]}
            data["instrument"] = self.ids["instrument"]
        return getattr(self.client, method)(room.url(path.format(**ids)), data).status_code

    def test_every_url_stands_in_a_table(self) -> None:
        """A URL without a line here fails this test."""
        named = {pattern.name for pattern in every_pattern()} | {"style"}
        self.assertEqual(named, {*TABLE, *OWN, *PUBLIC, *BY_CAPABILITY})

    def test_every_view_declares_its_permission(self) -> None:
        """The server refuses to start otherwise; the tables and the declarations agree."""
        self.assertEqual(undeclared(), [])
        said = {p.name: p.callback.permission for p in every_pattern()}
        self.assertEqual({n for n, p in said.items() if p == "signed in"}, set(OWN))
        self.assertEqual({n for n, p in said.items() if p == "capability"}, BY_CAPABILITY)
        self.assertLessEqual({n for n, p in said.items() if p == "public"}, set(PUBLIC))

    def test_roles(self) -> None:
        """Each role gets in where the table says, and 403 elsewhere."""
        for role, person in self.room.people.items():
            self.client.force_login(person)
            for name, (path, _, allowed) in TABLE.items():
                status = self.ask(name, self.room)
                with self.subTest(role=role, path=path):
                    if role in allowed:
                        self.assertNotIn(status, (401, 403, 404, 500))
                    else:
                        self.assertEqual(status, 403)

    def test_signed_out(self) -> None:
        """Pages lead to the sign-in; the endpoints for acts answer 401 in JSON."""
        for name in TABLE:
            with self.subTest(name=name):
                self.assertEqual(self.ask(name, self.room), 401 if name in JSON else 302)
        for name, method in OWN.items():
            with self.subTest(name=name):
                answer = getattr(self.client, method)(self.own(name))
                self.assertTrue(answer.headers["Location"].startswith("/sign-in/"))
        for name, status in PUBLIC.items():
            with self.subTest(name=name):
                path = "/style/" if name == "style" else reverse(name)
                self.assertEqual(self.client.get(path).status_code, status)

    def own(self, name: str) -> str:
        numbered = ("sign-out-device", "revoke-device", "leave")
        return reverse(name, args=[self.ids["last"]] if name in numbered else [])

    def test_another_persons_objects_do_not_exist(self) -> None:
        """404 for a device, a capability or a membership of somebody else."""
        self.client.force_login(self.foreign.people["manager"])
        for name in ("sign-out-device", "revoke-device", "leave"):
            with self.subTest(name=name):
                self.assertEqual(self.client.post(self.own(name)).status_code, 404)

    def test_somebody_elses_programme_does_not_exist(self) -> None:
        """404 for every URL of a programme one is no member of, or no longer."""
        self.client.force_login(self.foreign.people["manager"])
        for name in TABLE:
            with self.subTest(name=name):
                self.assertEqual(self.ask(name, self.room), 404)

    def test_somebody_elses_objects_do_not_exist(self) -> None:
        """404 for the objects of another programme under one's own programme's name."""
        self.client.force_login(self.foreign.people["manager"])
        for name, (path, _, _) in TABLE.items():
            if "{" in path:
                with self.subTest(name=name):
                    self.assertEqual(self.ask(name, self.foreign), 404)

    def test_the_table_reaches_the_view_it_names(self) -> None:
        """The path of each line resolves to its name."""
        for name, (path, _, _) in TABLE.items():
            plain = self.room.url(path.format(**self.ids)).partition("?")[0]
            self.assertEqual(resolve(plain).url_name, name)
