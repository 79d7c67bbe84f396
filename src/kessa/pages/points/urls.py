"""Addresses of this app."""

from django.urls import path

from kessa.pages.points import (
    event_views,
    exchange_views,
    photo_views,
    point_views,
    target_views,
    usual_views,
    views,
    water_views,
)

menu_place = "waters"
in_programme = [
    path("waters/<int:water_id>/", water_views.water, name="water"),
    path("waters/<int:water_id>/change/", water_views.change_water, name="change-water"),
    path("waters/<int:water_id>/targets/", target_views.targets, name="targets"),
    path("waters/<int:water_id>/judging/", views.judging, name="water-judging"),
    path("waters/", views.index, name="waters"),
    path("points/bring/", exchange_views.bring, name="bring-points"),
    path("points.geojson", exchange_views.geojson, name="points-geojson"),
    path("points.csv", exchange_views.points_csv, name="points-csv"),
    path("points/<int:point_id>/", point_views.point, name="point"),
    path("points/<int:point_id>/photograph/", photo_views.point_photo, name="point-photo"),
    path(
        "points/<int:point_id>/limits-of-its-water/",
        point_views.limits_of_its_water,
        name="limits-of-its-water",
    ),
    path("points/<int:point_id>/usual/", usual_views.usual, name="usual"),
    path("points/<int:point_id>/events/", event_views.water_events, name="water-events"),
    path(
        "points/<int:point_id>/events/<int:event_id>/withdraw/",
        event_views.withdraw,
        name="withdraw-event",
    ),
    path("points/<int:point_id>/tests/", views.test_menu, name="test-menu"),
    path("points/<int:point_id>/tests/favourite/", views.favourite, name="favourite-test"),
]
