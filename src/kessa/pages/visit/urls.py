"""Addresses of this app."""

from django.urls import path

from kessa.pages.visit import views, visit_views

menu_place = "waters"
in_programme = [
    path("points/<int:point_id>/test/", views.begin, name="begin-test"),
    path("points/<int:point_id>/several/", visit_views.choose, name="choose-tests"),
    path("visits/<int:visit_id>/", visit_views.visit, name="visit"),
    path("visits/<int:visit_id>/add/", visit_views.add_tests, name="add-tests"),
    path("visits/<int:visit_id>/beside/<uuid:run_id>/", visit_views.beside, name="beside-the-test"),
    path("samples/<int:sample_id>/safety/", views.safety, name="safety"),
    path("samples/<int:sample_id>/change/", views.change_test, name="change-test"),
    path("samples/<int:sample_id>/cancel/", views.cancel, name="cancel-sample"),
    path("samples/<int:sample_id>/context/", views.context, name="context"),
    path("samples/<int:sample_id>/sample/", views.take, name="take-sample"),
]
