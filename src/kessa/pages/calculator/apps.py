"""Every calculation of the core as a page."""

from django.apps import AppConfig


class PagesCalculatorConfig(AppConfig):
    name = "kessa.pages.calculator"
