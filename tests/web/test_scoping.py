"""A view that forgets its programme fails, for single objects and for lists."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.test import RequestFactory, SimpleTestCase, TestCase

from kessa.library.models import Lot
from kessa.places.models import Point
from kessa.platform.permissions import Permission, needs
from kessa.platform.scoping import UnscopedRead, narrow_to, request_scope
from kessa.results.models import Evaluation, Result
from kessa.runs.models import Event, Run
from kessa.visits.models import Sample
from tests.builders.people import Room


class Scoping(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.room, cls.other = Room(), Room("south-room")
        cls.result = cls.room.finished()

    def ask(self, read: Any) -> HttpResponse:
        """A view of the room's programme that reads in this way."""

        @needs(Permission.VIEW)
        def view(request: HttpRequest) -> HttpResponse:
            read(request)
            return HttpResponse("read")

        request = RequestFactory().get("/")
        request.user = self.room.people["viewer"]
        with request_scope():
            return view(request, programme=self.room.slug)

    def test_forgetting_the_programme_fails(self) -> None:
        """Lists, counts, single rows, and rows of another programme."""
        result, other = self.result, self.other
        for read in (
            lambda r: list(Lot.objects.all()),
            lambda r: Lot.objects.order_by("number").first(),
            lambda r: Point.objects.filter(name="at the ford").exists(),
            lambda r: Sample.objects.count(),
            lambda r: get_object_or_404(Result, pk=result.pk),
            lambda r: Result.objects.get(pk=result.pk),
            lambda r: Event.objects.filter(run=result.run).update(act="x"),
            lambda r: list(Run.objects.exclude(programme=r.programme)),
            lambda r: list(Evaluation.objects.filter(result=result).values_list("pk")),
            lambda r: list(Lot.objects.of(other.programme)),
            lambda r: list(Lot.objects.iterator()),
        ):
            with self.assertRaises(UnscopedRead):
                self.ask(read)

    def test_naming_it_reads(self) -> None:
        """Directly, through a join, or from an object of the programme."""
        for read in (
            lambda r: list(Lot.objects.of(r.programme)),
            lambda r: list(Event.objects.filter(run__programme=r.programme)),
            lambda r: list(self.result.evaluations.all()),
            lambda r: list(self.result.run.lots_used.all()),
            lambda r: self.result.run.sample,
            lambda r: list(Result.objects.of(r.programme).prefetch_related("evaluations")),
            lambda r: list(Lot.objects.none()),
        ):
            self.assertEqual(self.ask(read).content, b"read")

    def test_outside_a_request_everything_may_be_read(self) -> None:
        """Commands and jobs work on every programme."""
        self.assertEqual(Lot.objects.count(), 2)


class Scope(SimpleTestCase):
    def test_a_scope_ends_with_its_request(self) -> None:
        """Narrowing outside a request does nothing."""
        with request_scope() as scope:
            narrow_to(3)
            self.assertEqual(scope.programme, 3)
        narrow_to(4)
