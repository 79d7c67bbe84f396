"""What the import contracts do not see: foreign keys, templates, and who registers what."""

import re
import tomllib
import unittest
from pathlib import Path
from types import SimpleNamespace

from django.apps import apps
from django.conf import settings
from django.core.exceptions import ImproperlyConfigured
from django.test import SimpleTestCase
from django.urls import path

from kessa.platform.checks import every_model_is_sealed_or_exempt
from kessa.platform.registry import Registry, registry
from kessa.ui.context import PLACES

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "kessa"
BESIDE = ("ui", "platform")
"""What every template may use: the design system, and the error pages."""


def layers() -> list[str]:
    """The apps from the top to the bottom, as the import contract names them."""
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]
    found = next(one for one in contracts["contracts"] if one["type"] == "layers")
    return [layer for layer in found["layers"] if ":" not in layer]


def layer_of(path: str) -> int:
    """How far down an app lies; *path*: "kessa.pages.log" or a file of it."""
    parts = re.split(r"[./]", path.partition("kessa")[2].strip("./"))
    return layers().index(parts[0])


class Layers(unittest.TestCase):
    def test_foreign_keys_lead_downwards(self) -> None:
        """To a model of the same app or of one below."""
        for model in apps.get_models():
            if not model.__module__.startswith("kessa."):
                continue
            for field in model._meta.get_fields():
                target = getattr(field, "related_model", None)
                if not field.concrete or not target or not target.__module__.startswith("kessa."):
                    continue
                with self.subTest(field=str(field)):
                    own, other = layer_of(model.__module__), layer_of(target.__module__)
                    self.assertLessEqual(own, other)

    def test_templates_use_what_lies_beside_or_below(self) -> None:
        """No include or extends leads upwards."""
        where = {
            str(file.relative_to(file.parents[len(file.parts) - at - 2])): file
            for file in SOURCE.rglob("templates/**/*.html")
            for at in [file.parts.index("templates")]
        }
        self.assertGreater(len(where), 80)
        asked = re.compile(r'{%\s*(?:include|extends)\s+"([^"]+)"')
        for file in where.values():
            for name in asked.findall(file.read_text()):
                used = where[name]
                with self.subTest(template=file.name, uses=name):
                    own, other = (
                        layer_of(str(file.relative_to(SOURCE.parent))),
                        layer_of(str(used.relative_to(SOURCE.parent))),
                    )
                    self.assertLessEqual(own, other)

    def test_every_app_of_the_project_is_installed_in_its_layer(self) -> None:
        """Each folder that is an app stands in the settings, and the other way round."""
        folders = {
            ".".join(("kessa", *path.parent.relative_to(SOURCE).parts))
            for path in SOURCE.rglob("apps.py")
        }
        installed = {name for name in settings.INSTALLED_APPS if name.startswith("kessa.")}
        self.assertEqual(folders, installed)


class Forgotten(SimpleTestCase):
    def test_a_page_without_a_place_in_the_menu(self) -> None:
        """Its app does not start, and is told what to say."""
        urls = SimpleNamespace(__name__="kessa.pages.new.urls", in_programme=[path("new/", list)])
        with self.assertRaisesMessage(ImproperlyConfigured, "set menu_place to the name"):
            Registry().in_menu(urls)
        urls.menu_place = "log"
        self.assertEqual(len(Registry().in_menu(urls)), 1)

    def test_a_place_that_is_not_in_the_menu(self) -> None:
        """Every page lies in a place that the menu shows, or in none."""
        shown = {name for name, _ in PLACES}
        self.assertLessEqual(set(registry.places.values()), shown | {""})
        self.assertLessEqual(shown, set(registry.places))

    def test_a_model_that_is_neither_sealed_nor_exempt(self) -> None:
        """The check names it and says what to do."""
        sealed = registry.sealed.pop("results.Evaluation")
        try:
            errors = every_model_is_sealed_or_exempt()
        finally:
            registry.sealed["results.Evaluation"] = sealed
        self.assertEqual([error.id for error in errors], ["kessa.E001"])
        self.assertIn("results.Evaluation neither has a seal", errors[0].msg)
        self.assertEqual(every_model_is_sealed_or_exempt(), [])
