"""The room of results and their evidence."""

from django.apps import AppConfig


class LogConfig(AppConfig):
    name = "kessa.log"
