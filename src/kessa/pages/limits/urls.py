"""Addresses of this app."""

from django.urls import path

from kessa.pages.limits import views

menu_place = "library"
in_programme = [
    path("limits/", views.index, name="limits"),
    path("limits/<slug:set_id>/<slug:limit_id>/", views.limit, name="limit"),
]
