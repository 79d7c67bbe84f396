"""The room of runs and their events."""

from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "kessa.bench"
