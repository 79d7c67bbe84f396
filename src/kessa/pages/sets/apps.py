"""Sets of tests: what is due where, and what to pack for it."""

from django.apps import AppConfig


class PagesSetsConfig(AppConfig):
    name = "kessa.pages.sets"
