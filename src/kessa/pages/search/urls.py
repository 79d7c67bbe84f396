"""Addresses of this app."""

from django.urls import path

from kessa.pages.search import views

menu_place = ""
in_programme = [
    path("search/", views.search, name="search"),
]
