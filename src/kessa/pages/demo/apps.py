"""The demo data."""

from django.apps import AppConfig


class PagesDemoConfig(AppConfig):
    name = "kessa.pages.demo"
