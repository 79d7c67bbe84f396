"""What the import contracts do not see: foreign keys, templates, and who registers what."""

import re
import tomllib
import unittest
from pathlib import Path

from django.apps import apps
from django.conf import settings

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
            str(path.relative_to(path.parents[len(path.parts) - at - 2])): path
            for path in SOURCE.rglob("templates/**/*.html")
            for at in [path.parts.index("templates")]
        }
        self.assertGreater(len(where), 80)
        asked = re.compile(r'{%\s*(?:include|extends)\s+"([^"]+)"')
        for path in where.values():
            for name in asked.findall(path.read_text()):
                used = where[name]
                with self.subTest(template=path.name, uses=name):
                    own, other = (
                        layer_of(str(path.relative_to(SOURCE.parent))),
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
