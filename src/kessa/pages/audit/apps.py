"""The audit trail."""

from django.apps import AppConfig


class PagesAuditConfig(AppConfig):
    name = "kessa.pages.audit"
