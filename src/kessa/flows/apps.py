"""What follows from an act, said once."""

from django.apps import AppConfig


class FlowsConfig(AppConfig):
    name = "kessa.flows"
