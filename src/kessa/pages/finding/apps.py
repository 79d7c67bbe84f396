"""Finding a method: the library's page, and two methods side by side."""

from django.apps import AppConfig


class PagesFindingConfig(AppConfig):
    name = "kessa.pages.finding"
