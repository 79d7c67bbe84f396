"""Addresses of this app."""

from django.urls import path

from kessa.pages.lots import views

menu_place = "library"
in_programme = [
    path("lots/<int:lot_id>/", views.lot, name="lot"),
    path("lots/<int:lot_id>/results.csv", views.csv, name="lot-csv"),
]
