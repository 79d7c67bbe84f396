"""A lot and the results that rest on it."""

from django.apps import AppConfig


class PagesLotsConfig(AppConfig):
    name = "kessa.pages.lots"
