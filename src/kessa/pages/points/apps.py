"""Waters, points and their history."""

from django.apps import AppConfig


class PagesPointsConfig(AppConfig):
    name = "kessa.pages.points"
