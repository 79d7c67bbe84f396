"""The limits in force, what is judged against one, and which methods can see it."""

from django.apps import AppConfig


class PagesLimitsConfig(AppConfig):
    name = "kessa.pages.limits"
