"""The search box."""

from django.apps import AppConfig


class PagesSearchConfig(AppConfig):
    name = "kessa.pages.search"
