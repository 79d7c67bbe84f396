"""Addresses of this app."""

from django.urls import path

from kessa.pages.limits import draft_views, set_views, views

menu_place = "library"
in_programme = [
    path("limits/", views.index, name="limits"),
    path("limits/schema.json", set_views.schema, name="limit-schema"),
    path("limits/new/", draft_views.begin, name="limit-draft-begin"),
    path("limits/drafts/<int:draft_id>/", draft_views.draft, name="limit-draft"),
    path("limits/drafts/<int:draft_id>/add/", draft_views.add, name="limit-draft-add"),
    path("limits/drafts/<int:draft_id>/text/", draft_views.text, name="limit-draft-text"),
    path("limits/drafts/<int:draft_id>/publish/", draft_views.publish, name="limit-draft-publish"),
    path("limits/drafts/<int:draft_id>/discard/", draft_views.discard, name="limit-draft-discard"),
    path(
        "limits/drafts/<int:draft_id>/limits/<slug:limit_id>/",
        draft_views.limit,
        name="limit-draft-limit",
    ),
    path("limits/set/<slug:set_id>/", set_views.limit_set, name="limit-set"),
    path("limits/set/<slug:set_id>/file/", set_views.set_file, name="limit-set-file"),
    path("limits/set/<slug:set_id>/copy/", set_views.copy, name="limit-set-copy"),
    path("limits/set/<slug:set_id>/compare/", set_views.compared, name="limit-set-compare"),
    path("limits/set/<slug:set_id>/attach/", set_views.attach, name="limit-set-attach"),
    path("limits/<slug:set_id>/<slug:limit_id>/", views.limit, name="limit"),
]
