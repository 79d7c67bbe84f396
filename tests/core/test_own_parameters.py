"""Parameters of one's own: the document brings them along, and they mean one thing everywhere."""

import unittest

import yaml

from kessa_core.documents.own_parameter import OwnBasis, OwnParameter
from kessa_core.errors import NoConversion, UnknownName
from kessa_core.methods import Method, load
from kessa_core.methods.load import InvalidDocument
from kessa_core.quantities import Quantity, conversion, parameter, parameters, units
from kessa_core.quantities.species import molar_mass
from tests.builders.documents import changed

COBALT = {
    "name": "Cobalt", "formula": "Co²⁺",
    "bases": [{"formula": "Co"}, {"formula": "CoCl2", "valence": 2}],
}  # fmt: skip


def key(stem: str, **said: object) -> str:
    """The key of this definition: its name and the fingerprint of the rest."""
    try:
        OwnParameter.model_validate({"key": f"{stem}-000000", **said})
    except ValueError as error:
        return f"{stem}{str(error).split('must end with ')[1].split(',')[0]}"
    raise AssertionError("000000 is no fingerprint")


def known(stem: str = "cobalt", **more: object) -> OwnParameter:
    said = {**COBALT, **more}
    return OwnParameter.model_validate({"key": key(stem, **said), **said})


class OwnParameters(unittest.TestCase):
    def test_converts_between_its_related_forms(self) -> None:
        """129.83 / 58.933 = 2.203: by moles of cobalt."""
        mine = known()
        factor, _ = conversion.line(mine.key, ("Co", "mg/L"), ("CoCl2", "mg/L"))
        self.assertAlmostEqual(factor, 129.833 / 58.933, places=6)
        per_mmol, _ = conversion.line(mine.key, ("Co", "mmol/L"), ("Co", "mg/L"))
        self.assertAlmostEqual(per_mmol, 58.933)
        self.assertEqual(Quantity(mine.key, "total", "CoCl2", "mg/L").label, "mg/L as CoCl₂")

    def test_two_moles_in_one(self) -> None:
        """A basis that holds two of it counts double."""
        mine = known("copper-own", name="Own copper", formula="Cu", bases=[
            {"formula": "Cu"}, {"formula": "Cu2O", "per": 2},
        ])  # fmt: skip
        factor, _ = conversion.line(mine.key, ("Cu", "mg/L"), ("Cu2O", "mg/L"))
        self.assertAlmostEqual(factor, (2 * 63.546 + 15.999) / (2 * 63.546))

    def test_the_key_follows_from_the_rest(self) -> None:
        """Another name, mass or unit is another parameter; the remedy names the ending."""
        self.assertNotEqual(known().key, known(unit="µg/L").key)
        with self.assertRaisesRegex(ValueError, "key must end with -[0-9a-f]{6}"):
            OwnParameter.model_validate({"key": "cobalt-abcdef", **COBALT})

    def test_what_kessa_knows_is_not_defined_again(self) -> None:
        """Chloride has its name already."""
        with self.assertRaisesRegex(ValueError, "already knows chloride"):
            OwnParameter.model_validate({"key": key("chloride", **COBALT), **COBALT})

    def test_masses(self) -> None:
        """From the formula; held against it where both are given; needed where it is none."""
        self.assertAlmostEqual(molar_mass("CoCl2") or 0, 129.833)
        self.assertIsNone(molar_mass("Xx2"))
        self.assertEqual(OwnBasis(formula="tannin", molar_mass=1701).mass, 1701)
        for wrong in ({"formula": "tannin"}, {"formula": "CoCl2", "molar_mass": 237.9}):
            with self.assertRaises(ValueError):
                OwnBasis.model_validate(wrong)

    def test_a_unit_of_ones_own_stands_alone(self) -> None:
        """No factor turns it into another."""
        mine = known("slime", name="Slime", formula="slime", bases=[], unit="slime units")
        self.assertEqual(units.unit("slime units").says_its_basis, False)
        with self.assertRaises(NoConversion):
            conversion.line(mine.key, ("", "slime units"), ("", "mg/L"))

    def test_a_document_brings_it_along(self) -> None:
        """Defined and measured in one text; without the definition it is unknown."""
        name = key("cobalt", **COBALT)
        defines = (
            f"defines:\n  - {{key: {name}, name: Cobalt, formula: Co²⁺, "
            "bases: [{formula: Co}, {formula: CoCl2, valence: 2}]}\n"
        )
        stage = (
            "parameter: phosphate, form: dissolved, basis: PO4, also: [P]",
            f"parameter: {name}, form: total, basis: Co, also: [CoCl2]",
        )
        method = changed("phosphate-photometer", ("sample:\n", defines + "sample:\n"), stage)
        self.assertEqual(method.quantity.name, "Cobalt")
        self.assertEqual(method.stages[0].measures.also_words, "CoCl₂")
        self.assertEqual(load(_text(method)).hash, method.hash)
        with self.assertRaisesRegex(InvalidDocument, "There is no parameter 'cobalt-ffffff'"):
            changed("phosphate-photometer", (stage[0], stage[1].replace(name, "cobalt-ffffff")))

    def test_names_that_sound_alike_differ_by_formula(self) -> None:
        """No two shipped parameters share name or formula and form."""
        every = [(p.name, p.formula) for p in parameters().values()]
        self.assertEqual(len({name for name, _ in every}), len(every))
        alike = [p for p in parameters().values() if p.name.lower().startswith("chlor")]
        self.assertEqual(len({p.formula for p in alike}), len(alike))
        with self.assertRaises(UnknownName):
            parameter("clorine")

    def test_shipped_as_the_handbook_and_limits_name_them(self) -> None:
        """Everything that is asked for is in the list, each with a basis that it converts from."""
        for wanted in (
            "sulphate", "silica", "acidity", "manganese", "fluoride", "ammonia", "sulphite",
            "sulphide", "molybdate", "zinc", "potassium", "cyanuric-acid", "bromine", "ozone",
            "peroxide", "hydrazine", "carbon-dioxide", "nickel", "boron", "redox", "phosphonate",
            "chlorate", "arsenic", "coliforms", "e-coli", "copper", "aluminium", "lead",
        ):  # fmt: skip
            found = parameter(wanted)
            for basis in found.bases[1:]:
                first = (found.bases[0], found.unit)
                factor, _ = conversion.line(wanted, first, (basis, found.unit))
                self.assertGreater(factor, 0)


def _text(method: Method) -> str:
    return yaml.safe_dump(method.model_dump(mode="json", exclude_defaults=True), allow_unicode=True)
