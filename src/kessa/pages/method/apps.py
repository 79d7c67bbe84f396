"""One method: what it asks and reckons with, its field card and blank data sheet."""

from django.apps import AppConfig


class PagesMethodConfig(AppConfig):
    name = "kessa.pages.method"
