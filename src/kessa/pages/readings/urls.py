"""Addresses of this app."""

from django.urls import path

from kessa.pages.readings import views

menu_place = "log"
in_programme = [
    path("readings/", views.waiting, name="readings"),
    path("readings/<int:reading_id>/", views.read, name="read-photograph"),
    path("readings/<int:reading_id>/again/", views.again, name="read-again"),
    path("photographs/<str:key>.jpg", views.photograph, name="photograph"),
]
