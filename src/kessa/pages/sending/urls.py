"""Addresses of this app."""

from django.urls import path

from kessa.pages.sending import views

menu_place = ""
in_programme = [
    path("bench/<uuid:run_id>/capability/", views.capability, name="capability"),
    path("events/", views.receive, name="events"),
]

everywhere = [
    path("append/", views.append, name="append"),
]
