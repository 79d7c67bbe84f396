"""Addresses of this app."""

from django.urls import path, register_converter

from kessa.library import case_views, equipment_views, views
from kessa.library.converters import Number

register_converter(Number, "number")

menu_place = "library"
in_programme = [
    path("library/cases/new/", case_views.new_case, name="new-case"),
    path("library/cases/<int:case_id>/", case_views.edit_case, name="edit-case"),
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
