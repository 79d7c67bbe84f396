"""Addresses of this app."""

from django.urls import path

from kessa.pages.lots import views

menu_place = "library"
in_programme = [
    path("lots/<int:lot_id>/", views.lot, name="lot"),
    path("lots/<int:lot_id>/results.csv", views.csv, name="lot-csv"),
    path("lots/<int:lot_id>/computing/", views.computing, name="lot-computing"),
    path("lots/<int:lot_id>/correct/", views.correct, name="correct-lot"),
    path("instruments/<int:instrument_id>/", views.instrument, name="instrument"),
    path(
        "instruments/<int:instrument_id>/results.csv",
        views.instrument_csv,
        name="instrument-csv",
    ),
]
