"""Addresses of this app."""

from django.urls import path

from kessa.pages.lots import lot_views, views

menu_place = "library"
in_programme = [
    path("lots/<int:lot_id>/", views.lot, name="lot"),
    path("lots/<int:lot_id>/results.csv", views.csv, name="lot-csv"),
    path("lots/<int:lot_id>/computing/", views.computing, name="lot-computing"),
    path("lots/<int:lot_id>/correct/", lot_views.correct, name="correct-lot"),
    path("lots/<int:lot_id>/standard/", lot_views.standard, name="measure-standard"),
    path("library/lots/new/", lot_views.new_lot, name="new-lot"),
    path("instruments/<int:instrument_id>/", views.instrument, name="instrument"),
    path(
        "instruments/<int:instrument_id>/results.csv",
        views.instrument_csv,
        name="instrument-csv",
    ),
]
