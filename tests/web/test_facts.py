"""What is known of a water by its kind: asked, kept, and what follows for limits and sums."""

from datetime import timedelta

from django.utils import timezone

from kessa.places.facts import FACTS, facts_of, system_inputs, told, traits_from
from kessa.places.models import Water
from kessa.places.services import change_water, make_point, make_water, set_at
from kessa.platform.verify import find_errors
from kessa_core.judging import limit_set
from kessa_core.methods.suitability import TRAITS
from tests.builders.rooms import RoomTest


class Facts(RoomTest):
    def setUp(self) -> None:
        self.manager = self.room.people["manager"]
        self.client.force_login(self.manager)

    def water(self, kind: str, limits: str = "", **facts: object) -> Water:
        return make_water(
            self.room.programme, self.manager, limits, name=f"A {kind}", kind=kind, facts=facts
        )

    def test_each_kind_is_asked_something(self) -> None:
        """Every kind has facts, every fact a kind; choices have names."""
        kinds = {kind for fact in FACTS for kind in fact.kinds}
        self.assertEqual(kinds, set(Water.Kind.values))
        for fact in FACTS:
            self.assertEqual(bool(fact.choices), fact.answer in ("one", "several"), fact.key)

    def test_typed_and_shown(self) -> None:
        """A boiler's form asks for its pressure, its page says it; another kind's facts go."""
        boiler = self.water("boiler")
        address = self.room.url(f"waters/{boiler.pk}/change/")
        self.assertContains(self.client.get(address), "Operating pressure, bar")
        typed = {
            "water_name": "Boiler 2", "kind": "boiler", "fact-pressure": "9.5",
            "fact-metals": ["steel", "copper"], "fact-treatment": "sulphite", "fact-volume": "4200",
        }  # fmt: skip
        self.assertEqual(self.client.post(address, typed).status_code, 302)
        boiler.refresh_from_db()
        self.assertEqual(boiler.facts["pressure"], 9.5)
        page = " ".join(
            self.client.get(self.room.url(f"waters/{boiler.pk}/")).content.decode().split()
        )
        self.assertIn("Operating pressure:</span> 9.5 bar", page)
        self.assertIn("steel, copper", page)
        self.assertIn("calculator/dose/?volume_l=4200", page)
        self.assertEqual(list(find_errors(self.room.programme)), [])
        wrong = self.client.post(address, typed | {"fact-pressure": "high"})
        self.assertContains(wrong, "Enter a number, such as 9 or 0.5.", status_code=422)
        self.assertContains(wrong, 'value="high"', status_code=422)
        self.client.post(address, typed | {"kind": "heating"})
        boiler.refresh_from_db()
        self.assertNotIn("pressure", boiler.facts)
        self.assertEqual(boiler.facts["volume"], 4200)

    def test_what_follows_for_kits_and_limits(self) -> None:
        """Aluminium narrows the pH of a heating loop, trout ask for more oxygen."""
        for said in (
            {"fish": "cold"}, {"metals": ["aluminium"]}, {"glycol": 20.0},
            {"disinfectant": "chlorine-dioxide"},
        ):  # fmt: skip
            for trait in traits_from(said):
                self.assertIn(trait, TRAITS)
        loop = self.water("heating", "heating-loop", metals=["steel", "aluminium"])
        point = make_point(loop, self.manager, name="drain", place="-", part="system")
        held = set_at(point, timezone.now())
        assert held is not None
        self.assertIn("ph-aluminium", [limit.id for limit in held.limits])
        change_water(loop, self.manager, facts={"metals": ["steel"]})
        again = set_at(point, timezone.now() + timedelta(minutes=1))
        assert again is not None
        self.assertNotIn("ph-aluminium", [limit.id for limit in again.limits])

    def test_a_set_for_another_pressure(self) -> None:
        """Said where it applies, where it is applied, and when the pressure is changed."""
        boiler = self.water("boiler", "boiler-demo-low", pressure=9.0)
        page = self.room.url(f"waters/{boiler.pk}/")
        self.assertNotContains(self.client.get(page), "is for boilers")
        typed = {"water_name": "B", "kind": "boiler", "fact-pressure": "12",
                 "limit_set": "boiler-demo-low"}  # fmt: skip
        answer = self.client.post(self.room.url(f"waters/{boiler.pk}/change/"), typed, follow=True)
        self.assertContains(answer, "B works at 12 bar. Choose the set for its pressure.")
        self.assertContains(self.client.get(page), "is for boilers up to 10 bar")
        attach = self.room.url("limits/set/boiler-demo-low/attach/")
        answer = self.client.post(attach, {"waters": boiler.pk, "begins": "", "do": "look"})
        self.assertContains(answer, "is for boilers up to 10 bar")

    def test_the_ends_of_a_pressure_band(self) -> None:
        low, high = limit_set("boiler-demo-low"), limit_set("boiler-demo-high")
        for bar, is_low, is_high in ((0.5, True, False), (10, True, False), (10.1, False, True)):
            with self.subTest(bar=bar):
                self.assertEqual(low.is_for_pressure(bar), is_low)
                self.assertEqual(high.is_for_pressure(bar), is_high)

    def test_inputs_of_calculations(self) -> None:
        self.assertEqual(system_inputs({}), {})
        found = system_inputs({"volume": 38000.0, "recirculation": 220.0, "cooled-by": 6.5})
        self.assertEqual(
            found,
            {"volume_l": "38000", "volume_m3": "38", "circulation_m3_h": "220", "range_c": "6.5"},
        )

    def test_in_words(self) -> None:
        """In the order in which it is asked; nothing of another kind."""
        said = {"metals": ["steel"], "pressure": 9.0, "fish": "cold"}
        self.assertEqual(
            told("boiler", said),
            [("Operating pressure", "9 bar"), ("Metals that touch the water", "steel")],
        )
        self.assertEqual(len(facts_of("stream")), 2)
