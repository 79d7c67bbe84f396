"""From a point to a sample."""

from django.apps import AppConfig


class PagesVisitConfig(AppConfig):
    name = "kessa.pages.visit"
