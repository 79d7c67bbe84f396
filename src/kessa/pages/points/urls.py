"""Addresses of this app."""

from django.urls import path

from kessa.pages.points import views

in_programme = [
    path("waters/", views.index, name="waters"),
    path("points/<int:point_id>/", views.point, name="point"),
    path("points/<int:point_id>/tests/", views.test_menu, name="test-menu"),
]
