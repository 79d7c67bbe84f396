"""The room of going somewhere and taking a sample."""

from django.apps import AppConfig


class VisitsConfig(AppConfig):
    name = "kessa.visits"
