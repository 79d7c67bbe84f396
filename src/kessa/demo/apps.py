"""The room of the demo data."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "kessa.demo"
