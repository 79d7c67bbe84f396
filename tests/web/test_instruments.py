"""Drawn instruments: their marks, and the pages they stand on."""

from django.test import TestCase

from kessa.flows.receiving import keep
from kessa.pages.bench.payload import answer, chain_of, methods_of, payload
from kessa.runs.models import Run
from kessa.runs.services import state_of
from kessa.ui.instruments import instruments_of, minor, ticks
from kessa.verdicts.point_context import context_of
from kessa_core.methods import shipped
from kessa_core.readings.scale import Scale
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.builders.runs import Taps

BURETTE = Scale("end", 0, 500, 2, "mL", every=5)
FROST = Scale("reading", -20, 100, 1, "°C", every=5)
SHADES = Scale("reading", 0, 2, labels=("0", "between", "1"))


class Marks(TestCase):
    def test_numbered_marks_are_round_and_span_the_scale(self) -> None:
        """25 mL by 2.5; -10 to 50 °C by 10; every named place."""
        burette = ticks(BURETTE)
        self.assertEqual([tick.label for tick in burette[:3]], ["0", "2.5", "5"])
        self.assertEqual((burette[0].share, burette[-1].share), (0.0, 1.0))
        self.assertEqual(ticks(FROST)[0].label, "-10")
        self.assertEqual([tick.label for tick in ticks(SHADES)], ["0", "between", "1"])

    def test_fine_marks_stand_between_them(self) -> None:
        """Four to a gap of five; none on a scale of names, none on a numbered mark."""
        fine, numbered = minor(BURETTE), {tick.share for tick in ticks(BURETTE)}
        self.assertEqual(len(fine), 4 * (len(numbered) - 1))
        self.assertFalse(set(fine) & numbered)
        self.assertEqual(minor(SHADES), ())

    def test_beside_slots_are_drawn_as_a_rule(self) -> None:
        """The temperature beside a bare meter; the meter itself as a meter."""
        (found,) = instruments_of([shipped("conductivity-meter-bare")])
        drawn = {dial.slot: dial.template.rsplit("/", 1)[1] for dial in found.dials}
        self.assertEqual(drawn, {"temperature": "rule.html", "reading": "meter.html"})
        rule, meter = found.dials
        self.assertLessEqual(len(rule.ticks), 7)
        self.assertFalse(set(rule.minor) & {tick.share for tick in rule.ticks})
        self.assertGreater(len(meter.ticks), 7)


class OverTheWire(TestCase):
    def test_the_heaviest_pages_are_compressed(self) -> None:
        """The bench with its sheets, as a browser gets it: far below 120 kB."""
        room = Room()
        self.client.force_login(room.monitor)
        for method in ("chloride-drops-15ml", "chloride-burette", "strip-three-pads"):
            url = room.url(f"bench/{room.new_run(method=method).pk}/")
            plain = self.client.get(url)
            packed = self.client.get(url, headers={"accept-encoding": "gzip"})
            with self.subTest(method):
                self.assertEqual(packed.headers["Content-Encoding"], "gzip")
                self.assertLess(len(packed.content), min(40_000, len(plain.content) / 2))


class Pages(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def test_a_method_shows_its_instrument_names_and_conditions(self) -> None:
        """Colours with their names; how soon; what it is not for; gear at its step."""
        self.room.new_run(method="nitrate-comparator")
        page = self.client.get(self.room.url("library/nitrate-comparator/2/"))
        for part in ("faint rose", "within 24 h", "Not for turbid water", "Wear gloves", "NO₃"):
            self.assertContains(page, part)
        self.assertContains(page, 'class="instrument still" inert')

    def test_the_bench_loads_no_htmx(self) -> None:
        """Its own script does all; nothing on the page asks for the other."""
        run = self.room.new_run(method="nitrate-comparator")
        page = self.client.get(self.room.url(f"bench/{run.pk}/")).content.decode()
        self.assertNotIn("htmx.min", page)
        self.assertNotRegex(page, r"\shx-")

    def test_the_bench_carries_every_stage_once(self) -> None:
        """A figure for each slot of each stage."""
        run = self.room.new_run(method="hardness-burette")
        page = self.client.get(self.room.url(f"bench/{run.pk}/"))
        for key in ("hardness-burette/total", "hardness-burette/calcium"):
            self.assertContains(page, f'data-key="{key}" data-slot="start"', count=1)

    def test_more_stages_ask_no_more_of_the_database(self) -> None:
        """The answer on a finished run: results with their verdicts, limits, usual by history and
        as entered."""
        run = self.room.new_run(method="chlorine-photometer")
        taps = Taps(shipped("chlorine-photometer"), run=str(run.pk)).before()
        taps.read("0.34").on_to(1).read("0.62")
        keep(self.room.programme, self.room.monitor, [event.as_json() for event in taps.events])
        run = Run.objects.of(self.room.programme).get(pk=run.pk)
        state = state_of(run)
        with self.assertNumQueries(5):
            said = answer(run, state)
        self.assertEqual(set(said["results"]), {"free", "total", "combined"})

    def test_the_sheets_of_what_may_follow_come_with_their_lot(self) -> None:
        """The smaller portion's too, so that it can go on without a network."""
        run = self.room.new_run()
        chain = chain_of(run)
        methods = methods_of(chain)
        quantities = [q for method in methods.values() for q in method.quantities]
        sent = payload(chain, methods, context_of(run.sample, quantities))
        self.assertEqual(set(sent["sheets"]), {"chloride-drops-15ml", "chloride-drops-5ml"})
