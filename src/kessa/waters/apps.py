"""The room of waters and their points."""

from django.apps import AppConfig


class WatersConfig(AppConfig):
    name = "kessa.waters"
