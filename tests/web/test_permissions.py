"""URL × role: every URL of the resolver stands in the table, and the table is what happens."""

from django.test import TestCase
from django.urls import resolve

from kessa.permissions import every_pattern, undeclared
from kessa.visits.services import begin
from tests.builders.people import Room

ALL = ("viewer", "monitor", "reviewer", "manager")
TESTERS = ("monitor", "reviewer", "manager")
# name: (path in the programme, method, who may)
TABLE = {
    "today": ("today/", "get", ALL),
    "waters": ("waters/", "get", ALL),
    "point": ("points/{point}/", "get", ALL),
    "begin-test": ("points/{point}/test/", "post", TESTERS),
    "safety": ("samples/{sample}/safety/", "get", TESTERS),
    "context": ("samples/{sample}/context/", "get", TESTERS),
    "take-sample": ("samples/{sample}/sample/", "get", TESTERS),
    "bench-list": ("bench/", "get", ALL),
    "bench": ("bench/{run}/", "get", TESTERS),
    "events": ("events/", "post", TESTERS),
    "log": ("log/", "get", ALL),
    "log-csv": ("log.csv", "get", ALL),
    "result": ("results/{result}/", "get", ALL),
    "result-events": ("results/{result}/events.jsonl", "get", ALL),
    "library": ("library/", "get", ALL),
    "method": ("library/chloride-drops-15ml/1/", "get", ALL),
}
PUBLIC = {"home", "sign-in", "sign-out", "service-worker", "style"}


class Permissions(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.room, cls.foreign = Room(), Room("south-room")
        cls.result = cls.room.finished()
        cls.ids = {
            "point": cls.room.point.pk,
            "run": cls.result.run_id,
            "result": cls.result.pk,
        }
        sample = begin(cls.room.programme, cls.room.monitor, cls.room.point, "chloride-drops-15ml")
        cls.ids["sample"] = sample.pk

    def ask(self, name: str, room: Room) -> int:
        path, method, _ = TABLE[name]
        data = {"method": "chloride-drops-15ml"} if method == "post" else {}
        return getattr(self.client, method)(room.url(path.format(**self.ids)), data).status_code

    def test_every_url_stands_in_the_table(self) -> None:
        """A URL without a line here fails this test."""
        self.assertEqual({p.name for p in every_pattern()} - PUBLIC, set(TABLE))

    def test_every_view_declares_its_permission(self) -> None:
        """The server refuses to start otherwise."""
        self.assertEqual(undeclared(), [])

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
        """Pages lead to the sign-in; the endpoint for acts answers 401 in JSON."""
        for name in TABLE:
            with self.subTest(name=name):
                self.assertEqual(self.ask(name, self.room), 401 if name == "events" else 302)

    def test_somebody_elses_programme_does_not_exist(self) -> None:
        """404 for every URL of a programme one is no member of."""
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
            self.assertEqual(resolve(self.room.url(path.format(**self.ids))).url_name, name)
