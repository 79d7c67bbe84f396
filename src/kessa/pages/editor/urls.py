"""Addresses of this app."""

from django.urls import path

from kessa.pages.editor import views

menu_place = "library"
in_programme = [
    path("kits/", views.begin, name="begin-method"),
    path("kits/file/", views.bring_in, name="bring-in"),
    path("kits/<int:draft_id>/", views.draft, name="draft"),
    path("kits/<int:draft_id>/change/", views.change, name="change-draft"),
    path("kits/<int:draft_id>/text/", views.text, name="draft-text"),
    path("kits/<int:draft_id>/try/", views.attempt, name="try-draft"),
    path("kits/<int:draft_id>/by-hand/", views.by_hand, name="try-by-hand"),
    path("kits/<int:draft_id>/publish/", views.publish, name="publish-draft"),
    path("kits/<int:draft_id>/close/", views.put_away, name="close-draft"),
    path("library/<slug:method_id>/next/", views.begin_next, name="next-version"),
    path("library/<slug:method_id>/<number:number>/file/", views.file, name="method-file"),
]
