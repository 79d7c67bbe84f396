"""upgrade: migrate, grant the application its rights, seal what older releases left open, and bring
what pages read to this release."""

from django.core.management import BaseCommand, call_command

from kessa.platform.adopting import adopt
from kessa.platform.grants import grant_application
from kessa.platform.models import Programme
from kessa.platform.registry import registry


class Command(BaseCommand):
    """Brings a database to this release; run by the owner of its tables."""

    help = (
        "Migrate, grant the application its rights, seal what has no seal, make projections anew."
    )

    def handle(self, *args: object, **options: object) -> None:
        call_command("migrate", interactive=False, verbosity=0)
        grant_application()
        for programme in Programme.objects.all():
            adopt(programme)
            for bring_up in registry.upgrades:
                bring_up(programme)
