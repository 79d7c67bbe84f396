"""begin_programme NAME --slug S --manager PERSON: the first programme of a served installation."""

from argparse import ArgumentParser
from getpass import getpass
from zoneinfo import available_timezones

from django.core.exceptions import ValidationError
from django.core.management import BaseCommand, CommandError
from django.core.validators import validate_slug
from django.db import IntegrityError

from kessa.library.services import take_up
from kessa.people.services import begin_programme
from kessa_core.methods import shipped_ids
from kessa_core.methods.catalogue import shipped_text


class Command(BaseCommand):
    """Asks for the manager's password, so that it stands in no history."""

    help = "Create a programme with its manager and the shipped methods."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--slug", required=True, help="its name in addresses")
        parser.add_argument("--manager", required=True, help="the manager's name to sign in with")
        parser.add_argument("--timezone", default="UTC")

    def handle(self, *args: object, **options: str) -> None:
        if options["timezone"] not in available_timezones():
            raise CommandError(f"There is no time zone {options['timezone']!r}.")
        password = getpass("Password: ")
        try:
            validate_slug(options["slug"])
            programme = begin_programme(
                options["name"], options["slug"], options["timezone"], options["manager"], password
            )
        except ValidationError as error:
            raise CommandError(" ".join(error.messages)) from None
        except IntegrityError:
            raise CommandError("That slug or that person exists already.") from None
        for method_id in shipped_ids():
            take_up(programme, shipped_text(method_id))
        self.stdout.write(f"{programme} is at /p/{programme.slug}/")
