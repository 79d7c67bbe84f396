"""The room of finding things."""

from django.apps import AppConfig


class SearchConfig(AppConfig):
    name = "kessa.search"
