"""The room of people, programmes and roles."""

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "kessa.accounts"
