"""The application's URLs with the style page, which exists in debug only."""

from django.urls import path

from kessa.ui import views
from kessa.urls import urlpatterns as own

urlpatterns = [*own, path("style/", views.style, name="style")]
