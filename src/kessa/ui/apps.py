"""The room of the design system."""

from django.apps import AppConfig


class UiConfig(AppConfig):
    name = "kessa.ui"
