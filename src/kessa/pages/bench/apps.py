"""The page on which a test is done."""

from django.apps import AppConfig


class PagesBenchConfig(AppConfig):
    name = "kessa.pages.bench"
