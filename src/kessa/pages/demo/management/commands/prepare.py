"""prepare [--demo]: upgrade, collect styles and scripts, load the demo data."""

from argparse import ArgumentParser
from pathlib import Path

from django.conf import settings
from django.core.management import BaseCommand, call_command

from kessa.pages.demo.load import load


class Command(BaseCommand):
    """Everything between an empty database and a server that can start."""

    help = "Upgrade the database, collect static files, and with --demo load the demo data."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--demo", action="store_true")

    def handle(self, *args: object, **options: object) -> None:
        call_command("upgrade")
        if not settings.DEBUG:
            Path(settings.STATIC_ROOT).mkdir(parents=True, exist_ok=True)
            call_command("collectstatic", interactive=False, verbosity=0)
        if options["demo"]:
            load()
