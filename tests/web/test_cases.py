"""Cases: what is in them, who has them, and which lots and instruments a visit uses by them."""

from datetime import UTC, date, datetime

import time_machine

from kessa.library.cases import change_case, make_case, things_along
from kessa.library.equipment import note_instrument, note_lot
from kessa.library.models import Instrument, KitCase, Lot
from kessa.platform.models import AuditEntry
from kessa.platform.verify import find_errors
from kessa.runs.models import Run
from kessa.visits.models import TestSet, Visit
from kessa.visits.sets import change_set
from tests.builders.people import Room
from tests.builders.rooms import RoomTest
from tests.web.test_sets import new_set

SILVER, METHOD = "silver nitrate", "chloride-drops-15ml"
PH, KIND = "ph-meter", "pocket pH meter"


@time_machine.travel(datetime(2027, 11, 20, 9, 0, tzinfo=UTC), tick=False)
class CasesTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.monitor)

    def lot(self, number: str, reagent: str = SILVER, **described: object) -> Lot:
        return note_lot(self.room.programme, None, reagent=reagent, number=number, **described)

    def meter(self, name: str) -> Instrument:
        return note_instrument(self.room.programme, None, name=name, kinds=[KIND])

    def case(self, name: str = "Green case", **described: object) -> KitCase:
        return make_case(self.room.programme, self.room.monitor, name=name, **described)

    def prepare(self, **given: object) -> Visit:
        """A visit made by hand at the ford."""
        answer = self.client.post(
            self.room.url("visits/new/"), {"point": self.room.point.pk} | given
        )
        self.assertEqual(answer.status_code, 302)
        return Visit.objects.of(self.room.programme).latest("pk")

    def numbers(self, visit: Visit) -> set[str]:
        """The lots of silver nitrate that the visit's tests use."""
        runs = Run.objects.of(self.room.programme).filter(sample__visit=visit)
        return {lot.number for run in runs for lot in run.lots if lot.reagent == SILVER}

    def test_filled_on_its_page(self) -> None:
        """Named, given to somebody, filled; the audit says so, and it follows."""
        lot, meter = self.lot("G-1"), self.meter("meter 1")
        given = {"name": "Green case", "held_by": self.room.monitor.pk, "lots": [lot.pk],
                 "instruments": [meter.pk]}  # fmt: skip
        answer = self.client.post(self.room.url("library/cases/new/"), given)
        self.assertRedirects(answer, self.room.url("library/"))
        made = KitCase.objects.of(self.room.programme).get()
        self.assertEqual((made.held_by, made.lots), (self.room.monitor, [lot.pk]))
        self.assertContains(self.client.get(self.room.url("library/")), "1 lot, 1 instrument")
        address = self.room.url(f"library/cases/{made.pk}/")
        self.client.post(address, given | {"lots": [], "in_use": "on"})
        made.refresh_from_db()
        self.assertEqual((made.lots, made.in_use), ([], True))
        acts = AuditEntry.objects.of(self.room.programme).filter(act__startswith="case.")
        self.assertEqual([one.act for one in acts.order_by("pk")], ["case.made", "case.changed"])
        self.assertEqual(list(find_errors(self.room.programme)), [])

    def test_each_thing_is_in_one_case(self) -> None:
        """Put into another one it leaves the first, which the page says before."""
        lot, kept = self.lot("G-1"), self.lot("G-2")
        green = self.case(lots=[lot.pk, kept.pk])
        page = self.client.get(self.room.url("library/cases/new/"))
        self.assertContains(page, "silver nitrate, lot G-1 (now in Green case)")
        self.case("Blue case", lots=[lot.pk])
        green.refresh_from_db()
        self.assertEqual(green.lots, [kept.pk])

    def test_what_is_wrong(self) -> None:
        """No name; another programme's lot and person: refused, and what was typed stays."""
        elsewhere = Room("south-room")
        strange = note_lot(elsewhere.programme, None, reagent=SILVER, number="S-1")
        address = self.room.url("library/cases/new/")
        for given in ({"name": " "}, {"name": "x", "lots": [strange.pk]},
                      {"name": "x", "held_by": elsewhere.monitor.pk}):  # fmt: skip
            with self.subTest(given=given):
                self.assertEqual(self.client.post(address, given).status_code, 422)
        self.assertFalse(KitCase.objects.of(self.room.programme).exists())

    def test_a_visit_uses_what_its_case_holds(self) -> None:
        """The lot of the case, though another one was recorded later; without a case, one that is
        in none."""
        self.room.new_visit(METHOD)
        mine = self.lot("G-1")
        loose = self.lot("L-9")
        other = self.lot("B-1")
        green = self.case(lots=[mine.pk])
        self.case("Blue case", lots=[other.pk])
        self.assertEqual(self.numbers(self.prepare(case=green.pk)), {"G-1"})
        self.assertEqual(self.numbers(self.prepare()), {"L-9"})
        self.assertEqual(loose.number, "L-9")

    def test_a_bad_lot_stays_in_its_case(self) -> None:
        """What has expired is not used, wherever it lies; a case out of use says nothing."""
        self.room.new_visit(METHOD)
        bad, good = self.lot("G-1", expires=date(2020, 1, 1)), self.lot("B-1")
        green = self.case(lots=[bad.pk])
        blue = self.case("Blue case", lots=[good.pk])
        self.assertEqual(self.numbers(self.prepare(case=green.pk)), {"L-1"})
        change_case(blue, self.room.monitor, in_use=False)
        self.assertEqual(things_along(self.room.programme.pk, None).lots.nearness(good.pk), 1)

    def test_the_meter_of_the_case(self) -> None:
        """Before the one that this person used last."""
        mine, usual = self.meter("meter 1"), self.meter("meter 2")
        green = self.case(instruments=[mine.pk])
        run = self.room.new_run(method=PH)
        self.assertEqual(run.instruments[KIND].instrument, usual)
        visit = self.prepare(case=green.pk)
        run = Run.objects.of(self.room.programme).get(sample__visit=visit)
        self.assertEqual(run.instruments[KIND].instrument, mine)

    def test_who_goes(self) -> None:
        """Offered: oneself, with the case that one has. The visit's page says who and with what."""
        self.room.new_visit(METHOD)
        green = self.case(held_by=self.room.monitor)
        page = self.client.get(self.room.url("visits/new/"))
        offered = " ".join(page.content.decode().split())
        self.assertIn(f'value="{green.pk}" selected >Green case<', offered)
        reviewer, manager = self.room.people["reviewer"], self.room.people["manager"]
        visit = self.prepare(lead=reviewer.pk, companion=manager.pk, case=green.pk)
        self.assertEqual((visit.lead, visit.companion), (reviewer, manager))
        shown = self.client.get(self.room.url(f"visits/{visit.pk}/"))
        self.assertContains(shown, f"{reviewer} with {manager}")
        self.assertContains(shown, "Green case")
        same = {"point": self.room.point.pk, "lead": reviewer.pk, "companion": reviewer.pk}
        answer = self.client.post(self.room.url("visits/new/"), same)
        self.assertContains(answer, "Choose another person", status_code=422)

    def test_a_set_takes_its_case(self) -> None:
        """Its visits take the case; its packing list names what has to come from elsewhere."""
        mine, other = (
            self.lot("G-1", contains=500.0, unit="drops"),
            self.lot("B-1", "chromate indicator"),
        )
        green = self.case(lots=[mine.pk])
        self.case("Blue case", lots=[other.pk])
        held = new_set(self.room)
        change_set(held, self.room.monitor, case=green)
        page = self.client.get(self.room.url(f"sets/{held.pk}/packing/"))
        self.assertContains(page, "Green case")
        self.assertContains(page, ">G-1<")
        self.assertContains(page, "from Blue case")
        self.client.post(self.room.url(f"sets/{held.pk}/begin/"))
        visit = Visit.objects.of(self.room.programme).latest("pk")
        self.assertEqual(visit.case, green)
        self.assertEqual(self.numbers(visit), {"G-1"})
        self.assertEqual(TestSet.objects.of(self.room.programme).get().as_plain()["case"], green.pk)
