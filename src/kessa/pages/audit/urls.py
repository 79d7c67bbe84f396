"""Addresses of this app."""

from django.urls import path

from kessa.pages.audit import views

menu_place = ""
in_programme = [
    path("audit/", views.index, name="audit"),
    path("audit.jsonl", views.export, name="audit-export"),
]
