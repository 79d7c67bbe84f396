"""Addresses of this app."""

from django.urls import path

from kessa.pages.calculator import views

menu_place = "library"
in_programme = [
    path("calculator/", views.index, name="calculator"),
    path("calculator/<slug:name>/", views.calculation, name="calculation"),
]
