"""What follows from the results of a sample, on their pages: with the place's pressure, judged, and
values that contradict each other."""

from datetime import UTC, datetime
from decimal import Decimal

import time_machine

from kessa.flows.following import Following, following
from kessa.flows.judging import judge_waters
from kessa.flows.reviewing import decide
from kessa.flows.visit_acts import note_sent
from kessa.library.services import in_use
from kessa.places.services import attach_limits, change_point, make_point, set_at
from kessa.platform.verify import find_errors
from kessa.results.models import Result
from kessa.verdicts.measured import for_each_sample, for_sample
from kessa.visits.models import Sample
from kessa_core.judging.limit_sets import limit_sets
from kessa_core.runs.visit_acts import VisitAct
from tests.builders.rooms import RoomTest

EVENING = datetime(2026, 11, 28, 19, 0, tzinfo=UTC)


@time_machine.travel(EVENING, tick=False)
class FollowingTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def enter(self, day: str = "2026-11-28", point: int = 0, **cells: str) -> Sample:
        """Readings from paper, by method, of one sample; its sample."""
        methods = [name.replace("_", "-") for name in cells]
        for method in methods:
            in_use(self.room.programme, method, self.room.monitor)
        asked = "&".join(f"method={method}" for method in methods)
        typed = {
            "day-0": day,
            "time-0": "9:40",
            "point-0": point or self.room.point.pk,
            "note-0": "",
        }
        for method, text in zip(methods, cells.values(), strict=True):
            typed[f"cell-0-{STAGES[method]}"] = text
        answer = self.client.post(self.room.url(f"entry/sheet/?{asked}"), typed)
        self.assertEqual(answer.status_code, 302, answer.content[:0])
        return Sample.objects.of(self.room.programme).latest("pk")

    def page_of(self, sample: Sample, parameter: str) -> str:
        result = Result.objects.of(self.room.programme).get(run__sample=sample, parameter=parameter)
        page = self.client.get(self.room.url(f"results/{result.pk}/"))
        return " ".join(page.content.decode().split())

    def test_oxygen_at_the_pressure_of_its_point(self) -> None:
        """Higher up the water holds less, so the same oxygen is more of it; the inputs are named,
        on the pages of both results."""
        sample = self.enter(oxygen_meter="8.9", thermometer="12")
        low = self.percent(sample)
        change_point(self.room.point, self.room.monitor, altitude_m=480)
        sample.refresh_from_db()
        self.assertGreater(self.percent(sample), low)
        for parameter in ("oxygen", "temperature"):
            page = self.page_of(sample, parameter)
            self.assertIn("Oxygen saturation", page)
            self.assertIn("as at 480 m", page)

    def following(self, sample: Sample) -> Following:
        """What follows from it, with the limits that hold where and when it was taken."""
        return following(sample, set_at(sample.point, sample.sampled_at))

    def percent(self, sample: Sample) -> float:
        return next(
            one.found.value.number
            for one in self.following(
                Sample.objects.of(self.room.programme).get(pk=sample.pk)
            ).values
            if one.found.derived.key == "oxygen-percent"
        )

    def test_judged_by_its_own_limit(self) -> None:
        """Cycles of a cooling circuit from its make-up of the day before; only there."""
        water = self.room.water
        attach_limits(water, None, "cooling-demo", datetime(2026, 1, 1, tzinfo=UTC))
        ends = {"chloride_drops_15ml": "18 18"}
        change_point(self.room.point, self.room.monitor, part="circulating")
        makeup = make_point(water, None, name="make-up", place="at the valve", part="make-up")
        self.enter(day="2026-11-27", point=makeup.pk, chloride_drops_15ml="7 7")
        sample = self.enter(**ends)
        found = self.following(sample)
        cycles = next(one for one in found.values if one.found.derived.key == "cycles")
        self.assertAlmostEqual(cycles.found.value.number, 17.5 / 6.5, places=2)
        self.assertEqual(cycles.verdict.sign, "close")
        page = self.page_of(sample, "chloride")
        self.assertIn("Cycles of concentration", page)
        self.assertIn("of the make-up", page)

    def test_a_limit_that_depends_on_what_is_measured_later(self) -> None:
        """Ammonia waits for pH and temperature; their values judge it, and a judging of the whole
        water changes nothing of that; the page of the limit shows the formula as a table."""
        water, always = self.room.water, datetime(2026, 1, 1, tzinfo=UTC)
        attach_limits(water, None, "epa-freshwater", always)
        self.enter(ammonia_colorimeter="0.62")
        page = self.page_of(self.sample_with("ammonia"), "ammonia")
        self.assertIn("pH was not measured with this sample", page)
        self.enter(ph_tablets="8.2")
        self.enter(thermometer="21")
        result = Result.objects.of(self.room.programme).get(parameter="ammonia")
        self.assertEqual(result.outcome_code, "close")
        page = self.page_of(self.sample_with("ammonia"), "ammonia")
        self.assertIn("and the limit between ", page)
        self.assertIn("(pH 8.5 and Temperature 21.0 °C)", page)
        self.assertEqual(judge_waters(self.room.programme, [water], None).judged, 0)
        self.assertEqual(list(find_errors(self.room.programme)), [])
        page = self.client.get(self.room.url("limits/epa-freshwater/ammonia-acute/"))
        self.assertContains(page, ">17</td>")
        self.assertContains(page, "by pH and water temperature")

    def test_a_temperature_that_a_device_sends_later(self) -> None:
        """The water's temperature is a field condition, sent after the ammonia was tested."""
        always = datetime(2026, 1, 1, tzinfo=UTC)
        attach_limits(self.room.water, None, "epa-freshwater", always)
        sample = self.enter(ammonia_colorimeter="0.62", ph_tablets="8.2")
        result = Result.objects.of(self.room.programme).get(parameter="ammonia")
        self.assertEqual(result.outcome_code, "none")
        at = EVENING.isoformat()
        act = VisitAct("a-1", sample.visit_id, sample.pk, "conditions", {}, "phone", 1, at)
        note_sent(sample, self.room.monitor, {"water_c": Decimal("21.0")}, act)
        result.refresh_from_db()
        self.assertEqual(result.outcome_code, "close")
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_many_samples_are_judged_as_one_by_one(self) -> None:
        """What a formula computes for each of several samples, read together: of pH and temperature
        of its own point, near in time, the nearest; nothing of yesterday's."""
        for day, point, cells in (
            ("2026-11-26", self.room.point, {"ammonia_colorimeter": "0.62", "ph_tablets": "8.2"}),
            ("2026-11-26", self.room.point, {"thermometer": "21"}),
            ("2026-11-26", self.room.other, {"ph_tablets": "6.4", "thermometer": "2"}),
            ("2026-11-27", self.room.point, {"ammonia_colorimeter": "0.62"}),
            ("2026-11-28", self.room.point, {"ammonia_colorimeter": "0.62", "ph_tablets": "7.2"}),
            ("2026-11-28", self.room.point, {"thermometer": "4"}),
        ):
            self.enter(day=day, point=point.pk, **cells)
        limits = [one for one in limit_sets()["epa-freshwater"].limits if one.formula]
        samples = list(Sample.objects.of(self.room.programme).order_by("taken_at", "pk"))
        found = list(for_each_sample(limits, samples))
        self.assertEqual(found, [for_sample(limits, sample) for sample in samples])
        figures = {one.max for some in found for one in some if one.id == "ammonia-acute"}
        self.assertEqual(len(figures - {None}), 3)
        with self.assertNumQueries(1):
            list(for_each_sample(limits, samples))

    def test_what_is_rejected_judges_nothing(self) -> None:
        """The reviewer rejects the pH: the ammonia beside it cannot be compared until it is
        accepted."""
        always = datetime(2026, 1, 1, tzinfo=UTC)
        attach_limits(self.room.water, None, "epa-freshwater", always)
        for cells in (
            {"ammonia_colorimeter": "0.62"},
            {"ph_tablets": "8.2"},
            {"thermometer": "21"},
        ):
            self.enter(**cells)
        results = Result.objects.of(self.room.programme)
        acid = results.get(parameter="ph")
        for decision, code in (("reject", "none"), ("accept", "close")):
            decide(acid, self.room.people["reviewer"], decision, "wrong card", acid.current_id)
            self.assertEqual(results.get(parameter="ammonia").outcome_code, code)
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def sample_with(self, parameter: str) -> Sample:
        return Sample.objects.of(self.room.programme).get(runs__results__parameter=parameter)

    def test_what_cannot_be_is_said_with_its_cause(self) -> None:
        """Chloride that a conductivity of 212 cannot hold; nothing of it on the page of another
        parameter; the reviewer sees it too; nothing is refused."""
        sample = self.enter(chloride_drops_15ml="14 14", conductivity_meter="212 µS/cm",
                            thermometer="12")  # fmt: skip
        for parameter in ("chloride", "conductivity"):
            page = self.page_of(sample, parameter)
            self.assertIn("is more than a conductivity of 212 µS/cm allows", page)
            self.assertIn("Often mS/cm was read as µS/cm", page)
        self.assertNotIn("cannot be", self.page_of(sample, "temperature"))
        result = Result.objects.of(self.room.programme).get(parameter="chloride")
        self.client.force_login(self.room.people["reviewer"])
        review = self.client.get(self.room.url(f"review/?result={result.pk}"))
        self.assertContains(review, "is more than a conductivity of 212")

    def test_nothing_follows_from_one_value(self) -> None:
        sample = self.enter(chloride_drops_15ml="7 8")
        self.assertEqual(self.following(sample).values, ())
        self.assertNotIn("What follows from it", self.page_of(sample, "chloride"))


STAGES = {
    "oxygen-meter": "oxygen-meter.oxygen",
    "thermometer": "thermometer.temperature",
    "chloride-drops-15ml": "chloride-drops-15ml.chloride",
    "conductivity-meter": "conductivity-meter.conductivity",
    "ammonia-colorimeter": "ammonia-colorimeter.ammonia",
    "ph-tablets": "ph-tablets.ph",
}
