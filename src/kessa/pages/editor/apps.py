"""Writing one's own kit down: the editor, its trial by hand, and files out and in."""

from django.apps import AppConfig


class PagesEditorConfig(AppConfig):
    name = "kessa.pages.editor"
