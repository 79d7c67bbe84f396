"""Addresses of this app."""

from django.urls import path

from kessa.pages.finding import views

menu_place = "library"
in_programme = [
    path("library/", views.index, name="library"),
    path("library/compare/", views.compare, name="compare"),
]
