"""Addresses of this app."""

from django.urls import path

from kessa.pages.entry import views

menu_place = "log"
in_programme = [
    path("entry/", views.choose, name="entry"),
    path("entry/sheet/", views.sheet, name="entry-sheet"),
    path("entry/preview/", views.preview_row, name="entry-preview"),
    path("entry/paste/", views.paste, name="entry-paste"),
]
