"""Addresses of this app."""

from django.urls import path

from kessa.pages.editor import views

menu_place = "library"
in_programme = [
    path("library/write/", views.begin, name="begin-method"),
    path("library/write/file/", views.bring_in, name="bring-in"),
    path("library/write/<int:draft_id>/", views.draft, name="draft"),
    path("library/write/<int:draft_id>/change/", views.change, name="change-draft"),
    path("library/write/<int:draft_id>/text/", views.text, name="draft-text"),
    path("library/write/<int:draft_id>/try/", views.attempt, name="try-draft"),
    path("library/write/<int:draft_id>/by-hand/", views.by_hand, name="try-by-hand"),
    path("library/write/<int:draft_id>/publish/", views.publish, name="publish-draft"),
    path("library/write/<int:draft_id>/close/", views.put_away, name="close-draft"),
    path("library/<slug:method_id>/next/", views.begin_next, name="next-version"),
    path("library/<slug:method_id>/<number:number>/file/", views.file, name="method-file"),
]
