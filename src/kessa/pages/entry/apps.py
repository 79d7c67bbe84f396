"""Typing in what was written down on paper."""

from django.apps import AppConfig


class PagesEntryConfig(AppConfig):
    name = "kessa.pages.entry"
