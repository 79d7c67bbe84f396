"""audit verify [FILE]: whether the record holds; status 1 and a line for each break."""

from argparse import ArgumentParser
from collections.abc import Iterable, Iterator
from pathlib import Path

from django.core.management import BaseCommand, CommandError

from kessa.platform.models import AuditChain, Programme
from kessa.platform.verify import find_errors
from kessa_core.errors import BadEvent
from kessa_core.records import Break, check, read


class Command(BaseCommand):
    """Checks every programme of the database, or an exported file."""

    help = "Verify the audit trail of every programme, or of an exported file."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("what", choices=["verify"])
        parser.add_argument("file", nargs="?", type=Path)

    def handle(self, *args: object, **options: object) -> None:
        found = sum(1 for _ in self._told(options["file"]))
        if found:
            raise CommandError(f"{found} break{'s' if found > 1 else ''} in the record")

    def _told(self, file: object) -> Iterator[str]:
        named: Iterable[tuple[str, Iterator[Break]]] = (
            [(str(file), self._file(Path(str(file))))] if file else self._programmes()
        )
        for name, found in named:
            whole = True
            for one in found:
                whole = False
                line = f"{name}: entry {one.number}: {one.what}"
                self.stderr.write(line)
                yield line
            if whole:
                self.stdout.write(f"{name}: whole{self._head(name)}")

    def _programmes(self) -> Iterator[tuple[str, Iterator[Break]]]:
        for programme in Programme.objects.order_by("slug"):
            yield programme.slug, find_errors(programme)

    def _file(self, file: Path) -> Iterator[Break]:
        try:
            with file.open(encoding="utf-8") as lines:
                yield from check(read(lines))
        except (OSError, UnicodeError, BadEvent) as error:
            raise CommandError(str(error)) from None

    def _head(self, name: str) -> str:
        head = AuditChain.objects.filter(programme__slug=name).first()
        return f", {head.number} entries, head {head.hash[:16]}" if head else ""
