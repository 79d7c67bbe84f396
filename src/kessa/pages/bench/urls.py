"""Addresses of this app."""

from django.urls import path

from kessa.pages.bench import run_views, views

menu_place = "bench-list"
in_programme = [
    path("bench/", views.index, name="bench-list"),
    path("bench/<uuid:run_id>/", views.run, name="bench"),
    path("bench/<uuid:run_id>/cancel/", run_views.cancel, name="cancel-run"),
    path("bench/<uuid:run_id>/change/", run_views.change, name="change-run"),
    path("bench/<uuid:run_id>/end/", run_views.end, name="end-run"),
    path("bench/<uuid:run_id>/instrument/", run_views.instrument, name="run-instrument"),
    path("bench/<uuid:run_id>/lot/", run_views.lot, name="run-lot"),
    path("bench/<uuid:run_id>/hand-over/", run_views.hand_over, name="hand-over-run"),
]
