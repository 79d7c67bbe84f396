"""Addresses of this app."""

from django.urls import path

from kessa.pages.sets import calendar_views, edit_views, views

menu_place = "waters"
in_programme = [
    path("sets/", views.sets, name="sets"),
    path("sets/new/", edit_views.new_set, name="new-set"),
    path("sets/<int:set_id>/", views.one_set, name="set"),
    path("sets/<int:set_id>/change/", edit_views.change_set, name="change-set"),
    path("sets/<int:set_id>/points/<int:point_id>/", edit_views.tests_at, name="set-tests"),
    path("sets/<int:set_id>/due/", views.call_out, name="set-due"),
    path("sets/<int:set_id>/begin/", views.begin, name="begin-set"),
    path("sets/<int:set_id>/packing/", views.packing, name="set-packing"),
    path("sets/<int:set_id>/sheet/", views.sheet, name="set-sheet"),
    path("sets/<int:set_id>/labels/", views.labels, name="set-labels"),
    path("sets.ics", calendar_views.file, name="sets-calendar"),
    path("sets/calendar/", calendar_views.allow, name="allow-feed"),
    path("sets/calendar/withdraw/", calendar_views.withdraw, name="withdraw-feed"),
]

everywhere = [
    path("calendar/<str:token>.ics", calendar_views.feed, name="calendar-feed"),
]
