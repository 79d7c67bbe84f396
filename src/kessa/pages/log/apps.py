"""Results with their evidence, review and corrections."""

from django.apps import AppConfig


class PagesLogConfig(AppConfig):
    name = "kessa.pages.log"
