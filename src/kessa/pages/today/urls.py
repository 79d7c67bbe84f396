"""Addresses of this app."""

from django.urls import path

from kessa.pages.today import views

menu_place = "today"
in_programme = [
    path("today/", views.today, name="today"),
    path("today/stock/", views.stock, name="today-stock"),
]
