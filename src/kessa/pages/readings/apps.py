"""Photographs that wait to be read."""

from django.apps import AppConfig


class PagesReadingsConfig(AppConfig):
    name = "kessa.pages.readings"
