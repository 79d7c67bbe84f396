"""Addresses of this app."""

from django.urls import path

from kessa.pages.parameters import views

menu_place = "library"
in_programme = [
    path("parameters/", views.index, name="parameters"),
    path("parameters/<slug:key>/", views.parameter, name="parameter"),
]
