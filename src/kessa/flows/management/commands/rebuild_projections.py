"""rebuild_projections [PROGRAMME]: what pages read, rebuilt from the facts."""

from argparse import ArgumentParser

from django.core.management import BaseCommand

from kessa.flows.rebuilding import rebuild
from kessa.platform.models import Programme


class Command(BaseCommand):
    """One programme, by its name in addresses, or all of them."""

    help = "Rebuild the projections that pages read from the facts."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("programme", nargs="?")

    def handle(self, *args: object, **options: object) -> None:
        programmes = Programme.objects.order_by("slug")
        if options["programme"]:
            programmes = programmes.filter(slug=options["programme"])
        for programme in programmes:
            rebuild(programme)
            self.stdout.write(f"{programme.slug}: rebuilt")
