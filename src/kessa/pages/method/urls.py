"""Addresses of this app."""

from django.urls import path

from kessa.pages.method import views

menu_place = "library"
SHIPPED = {"number": ""}
in_programme = [
    path("library/<slug:method_id>/shipped/", views.method, SHIPPED, name="shipped-method"),
    path("library/<slug:method_id>/shipped/card/", views.card, SHIPPED, name="shipped-card"),
    path("library/<slug:method_id>/shipped/sheet/", views.sheet, SHIPPED, name="shipped-sheet"),
    path("library/<slug:method_id>/<number:number>/", views.method, name="method"),
    path("library/<slug:method_id>/<number:number>/card/", views.card, name="field-card"),
    path("library/<slug:method_id>/<number:number>/sheet/", views.sheet, name="data-sheet"),
]
