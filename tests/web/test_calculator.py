"""The calculator: found by what one wants to know, worked out on its page, nothing recorded."""

import re
from html import unescape

from django.utils.html import escape

from kessa.platform.models import AuditEntry
from kessa_core.calculations import calculations
from tests.builders.rooms import RoomTest


class CalculatorTest(RoomTest):
    def setUp(self) -> None:
        self.client.force_login(self.room.people["viewer"])

    def page(self, name: str, **typed: str) -> str:
        inputs = {key.rstrip("_"): text for key, text in typed.items()}
        answer = self.client.get(self.room.url(f"calculator/{name}/"), inputs)
        return " ".join(answer.content.decode().split())

    def test_every_calculation_has_a_page_that_asks_for_its_inputs(self) -> None:
        for name, one in calculations().items():
            page = self.page(name)
            with self.subTest(name):
                for given in one.given:
                    self.assertIn(f'name="{given.key.rstrip("_")}"', page)
                self.assertIn(escape(one.source), page)

    def test_found_by_what_one_wants_to_know(self) -> None:
        for asked, name in (
            ("stock", "dilution"),
            ("hardness unit", "hardness-convert"),
            ("blows down", "boiler-blowdown"),
            ("90th", "percentile90"),
        ):
            page = self.client.get(self.room.url("calculator/"), {"q": asked})
            with self.subTest(asked):
                self.assertContains(page, f"calculator/{name}/")
        page = self.client.get(self.room.url("calculator/"), {"q": "philosophers' stone"})
        self.assertContains(page, "No calculation says that")

    def test_worked_out_with_range_and_working(self) -> None:
        before = AuditEntry.objects.count()
        page = self.page("dilution", stock_mg_l="75 ± 1", target_mg_l="1.5", final_ml="100")
        self.assertIn(">2.000</strong>", page)
        self.assertIn("(1.973–2.028)", page)
        self.assertIn("Concentration of the stock 75 ± 1 mg/L; Concentration wanted 1.5 mg/L", page)
        self.assertEqual(AuditEntry.objects.count(), before)

    def test_units_are_named_as_printed(self) -> None:
        """8.2 German degrees as mg/L of calcium carbonate and as mmol/L; no key of the code."""
        for wanted, name, answer in (
            ("caco3_mg_l", "mg/L as CaCO₃", ">146.4</strong>"),
            ("mmol_l", "mmol/L of Ca + Mg", ">1.462</strong>"),
        ):
            page = self.page("hardness-convert", value="8.2", **{"from": "dh"}, to=wanted)
            for part in (answer, f">{name}</option>", f"Unit wanted {name}", "°dH (German)"):
                self.assertIn(part, page)
            self.assertNotIn(f">{wanted}<", page)
            self.assertNotIn("in the unit wanted", page)

    def test_what_is_wrong_is_said_and_stays(self) -> None:
        page = self.page("dilution", stock_mg_l="<b>much", target_mg_l="1.5", final_ml="100")
        self.assertIn("is no number", page)
        self.assertIn('value="&lt;b&gt;much"', page)
        self.assertIn('value="1.5"', page)
        page = self.page("alkalinity-species", p_as_caco3="95", m_as_caco3="90")
        self.assertIn("P alkalinity (95) is above M alkalinity (90).", page)

    def test_inputs_and_answers_have_names(self) -> None:
        """What is missing or out of bounds and what comes out is named as the fields are, no key
        among it; the field stays marked."""
        page = self.page("langelier", ph="7.5", temperature_c="20", tds_mg_l="300",
                         calcium_as_caco3="0")  # fmt: skip
        self.assertIn("Calcium hardness must be above 0 mg/L as CaCO₃.", page)
        self.assertIn("M alkalinity is missing (mg/L as CaCO₃).", page)
        self.assertEqual(page.count('aria-invalid="true"'), 1)
        page = self.page("langelier", ph="7.5", temperature_c="20", tds_mg_l="300",
                         calcium_as_caco3="120", alkalinity_as_caco3="100")  # fmt: skip
        for part in ("Saturation index (Langelier)", "Temperature of the water 20 °C"):
            self.assertIn(part, page)
        page = self.page("dilution", stock_mg_l="much", target_mg_l="1.5", final_ml="100")
        self.assertIn("Concentration of the stock: much is no number.", page)

    def test_every_answer_among_several_is_named(self) -> None:
        """And every input; no name holds an underscore."""
        for found in calculations().values():
            with self.subTest(found.name):
                named = [given.about for given in found.given]
                named += [one.about for one in found.gives.values() if len(found.gives) > 1]
                self.assertNotIn("", named)
                self.assertNotIn("_", "".join(named))

    def test_what_does_not_exist(self) -> None:
        self.assertEqual(self.client.get(self.room.url("calculator/alchemy/")).status_code, 404)
        self.assertIn("Work it out", self.page("dose", surplus="1"))


class FromAResult(RoomTest):
    def test_a_tap_away_from_a_result(self) -> None:
        """The link leads to the answer, with the result's figure and range filled in."""
        self.client.force_login(self.room.people["viewer"])
        result = self.room.finished((7, 7))
        page = self.client.get(self.room.url(f"results/{result.pk}/")).content.decode()
        self.assertIn("Calculate with it", page)
        address = unescape(re.search(r'href="([^"]*/calculator/species-convert/[^"]*)"', page)[1])
        answer = self.client.get(f"{address}&to=Cl")
        self.assertContains(answer, f'value="{result.evaluation.figure} ±')
