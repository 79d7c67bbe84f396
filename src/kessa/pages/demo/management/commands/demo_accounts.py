"""demo_accounts ADDRESS: print where the demo is and how to sign in."""

from argparse import ArgumentParser

from django.core.management import BaseCommand

from kessa.pages.demo.people import PASSWORD, PEOPLE


class Command(BaseCommand):
    """Printed by ./kessa demo once the server answers."""

    help = "Print the demo's address and accounts."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("address")

    def handle(self, *args: object, **options: object) -> None:
        names = ", ".join(name for name, _, _ in PEOPLE)
        self.stdout.write(f"\nKessa is at {options['address']}")
        self.stdout.write(f"Sign in as {names}; the password of each: {PASSWORD}")
        self.stdout.write("Stop with Ctrl-C.\n")
        self.stdout.flush()
