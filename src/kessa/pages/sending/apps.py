"""The endpoints that take actions from devices."""

from django.apps import AppConfig


class PagesSendingConfig(AppConfig):
    name = "kessa.pages.sending"
