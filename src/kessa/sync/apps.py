"""The room of events arriving from the bench."""

from django.apps import AppConfig


class SyncConfig(AppConfig):
    name = "kessa.sync"
