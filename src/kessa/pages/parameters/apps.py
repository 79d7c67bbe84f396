"""What each parameter means, and what can see it."""

from django.apps import AppConfig


class PagesParametersConfig(AppConfig):
    name = "kessa.pages.parameters"
