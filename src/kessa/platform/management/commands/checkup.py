"""checkup: every check of the installation, one line each; status 1 if something is wrong."""

import sys

from django.core.management import BaseCommand

from kessa.platform.health import checkup


class Command(BaseCommand):
    """Printed for ./kessa check."""

    help = "Say what is wrong with this installation and how to fix it."
    requires_system_checks = []

    def handle(self, *args: object, **options: object) -> None:
        wrong = 0
        for name, found in checkup():
            for told in found:
                self.stdout.write(f"wrong  {name}: {told}")
            if not found:
                self.stdout.write(f"ok     {name}")
            wrong += len(found)
        if wrong:
            sys.exit(1)
