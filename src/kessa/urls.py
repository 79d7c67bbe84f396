"""Every address, from the apps that have some. What a programme owns lies under its name."""

from importlib import import_module

from django.apps import apps
from django.conf import settings
from django.urls import URLPattern, URLResolver, include, path
from django.utils.module_loading import module_has_submodule

from kessa.platform.registry import registry
from kessa.ui import views as ui

in_programme: list[URLPattern | URLResolver] = []
urlpatterns: list[URLPattern | URLResolver] = []
for config in apps.get_app_configs():
    if config.name.startswith("kessa.") and module_has_submodule(config.module, "urls"):
        urls = import_module(f"{config.name}.urls")
        in_programme += registry.in_menu(urls)
        urlpatterns += getattr(urls, "everywhere", [])

urlpatterns.append(path("p/<slug:programme>/", include(in_programme)))
if settings.DEBUG:
    urlpatterns.append(path("style/", ui.style, name="style"))

handler500 = "kessa.platform.trouble.server_error"
