"""Addresses of this app."""

from django.urls import path

from kessa.ui import views

everywhere = [
    path("sw.js", views.service_worker, name="service-worker"),
]
