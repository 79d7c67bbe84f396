"""Addresses of this app."""

from django.urls import path

from kessa.pages.sending import photo_views, views

menu_place = ""
in_programme = [
    path("bench/<uuid:run_id>/capability/", views.capability, name="capability"),
    path("events/", views.receive, name="events"),
    path("photographs/send/", photo_views.receive, name="send-photograph"),
]

everywhere = [
    path("append/", views.append, name="append"),
    path("append/photograph/", photo_views.append, name="append-photograph"),
]
