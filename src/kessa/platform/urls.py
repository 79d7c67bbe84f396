"""Addresses of this app."""

from django.urls import path

from kessa.platform import views

everywhere = [
    path("health/", views.health, name="health"),
]
