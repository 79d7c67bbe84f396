"""Programmes with their people, points and methods."""

from dataclasses import dataclass, field
from datetime import timedelta

from django.utils import timezone

from kessa.flows.receiving import keep
from kessa.library.models import Lot
from kessa.library.services import in_use, take_up
from kessa.places.models import Point
from kessa.places.services import attach_limits, make_point, make_water
from kessa.platform.adopting import adopt
from kessa.platform.models import Membership, Person, Programme, Role
from kessa.results.models import Result
from kessa.runs.models import Run
from kessa.runs.services import open_run, open_runs
from kessa.visits import services as visits
from kessa.visits.models import Sample, Visit
from kessa_core.methods.catalogue import shipped_text
from tests.builders.runs import Taps

PASSWORD = "kettle-and-slate"


@dataclass
class Room:
    """One programme: a person a role, one water with two points, both chloride methods."""

    slug: str = "north-room"
    people: dict[str, Person] = field(default_factory=dict)

    def __post_init__(self) -> None:
        self.programme = Programme.objects.create(name=self.slug.title(), slug=self.slug)
        for role in Role.values:
            person = Person.objects.create_user(f"{role}-{self.slug}", password=PASSWORD)
            Membership.objects.create(programme=self.programme, person=person, role=role)
            self.people[role] = person
        for method_id in ("chloride-drops-15ml", "chloride-drops-5ml"):
            take_up(self.programme, shipped_text(method_id))
        Lot.objects.create(programme=self.programme, reagent="silver nitrate", number="L-1")
        self.water = make_water(self.programme, None, "ccme-freshwater", name="Beck", kind="stream")
        self.point = self.new_point("at the ford")
        self.other = self.new_point("at the weir")
        adopt(self.programme)

    @property
    def monitor(self) -> Person:
        return self.people["monitor"]

    def new_point(self, name: str) -> Point:
        return make_point(self.water, None, name=name, place="by the oak")

    def set_limits(self, limit_set: str) -> None:
        """Another limit set has applied since yesterday."""
        attach_limits(self.water, None, limit_set, timezone.now() - timedelta(days=1))

    def new_sample(
        self, point: Point | None = None, days_ago: int = 0, method: str = "chloride-drops-15ml"
    ) -> Sample:
        """A sample that was taken for this method."""
        at = timezone.now() - timedelta(days=days_ago)
        in_use(self.programme, method, self.monitor)
        sample = visits.begin(self.programme, self.monitor, point or self.point, method)
        visits.decide_to_go(sample, self.monitor)
        visits.take(sample, self.monitor, at, "UTC")
        return sample

    def new_visit(self, *methods: str) -> Visit:
        """A visit to the ford whose sample was taken just now, with a run of each method."""
        for method in methods:
            in_use(self.programme, method, self.monitor)
        sample = visits.begin(self.programme, self.monitor, self.point, *methods)
        visits.decide_to_go(sample, self.monitor)
        visits.take(sample, self.monitor, timezone.now(), "UTC")
        open_runs(sample, self.monitor)
        return sample.visit

    def new_run(
        self, point: Point | None = None, days_ago: int = 0, method: str = "chloride-drops-15ml"
    ) -> Run:
        return open_run(self.new_sample(point, days_ago, method), self.monitor)

    def finished(
        self,
        samples: tuple[int, ...] = (7, 8),
        blank: int = 1,
        days_ago: int = 0,
        point: Point | None = None,
    ) -> Result:
        """A run played through with these counts, and its result."""
        run = self.new_run(point, days_ago)
        taps = Taps(run=str(run.pk)).before().count(blank, "blank")
        for drops in samples:
            taps.count(drops)
        keep(self.programme, self.monitor, [event.as_json() for event in taps.events])
        return Result.objects.get(run=run)

    def url(self, path: str = "") -> str:
        return f"/p/{self.slug}/{path}"
