"""Addresses of this app."""

from django.urls import path

from kessa.places import views

menu_place = "waters"
in_programme = [
    path("points/new/", views.new_point, name="new-point"),
    path("points/<int:point_id>/change/", views.change_point, name="change-point"),
]
