"""Addresses of this app."""

from django.urls import path

from kessa.pages.visit import end_views, new_visit, views, visit_views

menu_place = "waters"
in_programme = [
    path("points/<int:point_id>/test/", views.begin, name="begin-test"),
    path("points/<int:point_id>/several/", visit_views.choose, name="choose-tests"),
    path("visits/new/", new_visit.new_visit, name="new-visit"),
    path("visits/<int:visit_id>/", visit_views.visit, name="visit"),
    path("visits/<int:visit_id>/add/", visit_views.add_tests, name="add-tests"),
    path("visits/<int:visit_id>/beside/<uuid:run_id>/", visit_views.beside, name="beside-the-test"),
    path("visits/<int:visit_id>/end/", end_views.end, name="end-visit"),
    path("visits/<int:visit_id>/decide/<int:event_id>/", visit_views.decide, name="decide-record"),
    path("visits/<int:visit_id>/people/", visit_views.people, name="visit-people"),
    path("visits/<int:visit_id>/leave/<uuid:run_id>/", visit_views.leave_out, name="leave-out"),
    path("visits/<int:visit_id>/delay/<uuid:run_id>/", visit_views.delay_test, name="delay-test"),
    path("visits/<int:visit_id>/report/", end_views.report, name="visit-report"),
    path("visits/<int:visit_id>/sheet/", end_views.sheet, name="visit-sheet"),
    path("on-this-device/", visit_views.on_this_device, name="on-this-device"),
    path("samples/<int:sample_id>/safety/", views.safety, name="safety"),
    path("samples/<int:sample_id>/change/", views.change_test, name="change-test"),
    path("samples/<int:sample_id>/cancel/", views.cancel, name="cancel-sample"),
    path("samples/<int:sample_id>/context/", views.context, name="context"),
    path("samples/<int:sample_id>/sample/", views.take, name="take-sample"),
]
