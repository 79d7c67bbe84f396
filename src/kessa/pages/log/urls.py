"""Addresses of this app."""

from django.urls import path

from kessa.pages.log import correct_views, review_views, views

menu_place = "log"
in_programme = [
    path("log/", views.index, name="log"),
    path("log.csv", views.csv, name="log-csv"),
    path("results/<int:result_id>/", views.result, name="result"),
    path("results/<int:result_id>/acts/", views.acts, name="result-acts"),
    path("results/<int:result_id>/settling/", views.settling, name="result-settling"),
    path("results/<int:result_id>/budget/", views.budget, name="result-budget"),
    path("results/<int:result_id>/events.jsonl", views.events, name="result-events"),
    path("results/<int:result_id>/correct/", correct_views.reading, name="correct-reading"),
    path("results/<int:result_id>/correct-sample/", correct_views.sample, name="correct-sample"),
    path("results/<int:result_id>/answer/", review_views.reply, name="answer"),
    path("review/", review_views.queue, name="review"),
    path("review/<int:result_id>/", review_views.decision, name="decide"),
]
