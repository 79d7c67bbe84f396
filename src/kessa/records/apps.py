"""The room of the audit trail."""

from django.apps import AppConfig


class RecordsConfig(AppConfig):
    name = "kessa.records"
