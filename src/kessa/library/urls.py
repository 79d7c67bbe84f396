"""Addresses of this app."""

from django.urls import path, register_converter

from kessa.library import equipment_views, views
from kessa.library.converters import Number

register_converter(Number, "number")

menu_place = "library"
in_programme = [
    path("library/instruments/new/", equipment_views.new_instrument, name="new-instrument"),
    path(
        "library/instruments/<int:instrument_id>/edit/",
        equipment_views.edit_instrument,
        name="edit-instrument",
    ),
    path(
        "library/instruments/<int:instrument_id>/check/",
        equipment_views.check_instrument,
        name="check-instrument",
    ),
    path("library/<slug:method_id>/choices/", views.choices, name="choices"),
    path("library/<slug:method_id>/newer/", views.use_newer, name="use-newer"),
]
