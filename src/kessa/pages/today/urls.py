"""Addresses of this app."""

from django.urls import path

from kessa.pages.today import views

in_programme = [
    path("today/", views.today, name="today"),
]
