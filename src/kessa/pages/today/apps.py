"""What is new, due and waiting."""

from django.apps import AppConfig


class PagesTodayConfig(AppConfig):
    name = "kessa.pages.today"
