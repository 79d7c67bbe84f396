"""The room of methods in use and lots."""

from django.apps import AppConfig


class LibraryConfig(AppConfig):
    name = "kessa.library"
