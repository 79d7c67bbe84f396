"""audit verify [FILE] [--head HEADS]: whether the record holds; status 1 and a line for each break.
audit head [FILE]: the signed heads of all programmes, to be kept elsewhere."""

import json
from argparse import ArgumentParser
from collections.abc import Iterable, Iterator
from pathlib import Path
from typing import Any

from django.core.management import BaseCommand, CommandError

from kessa.platform.heads import BadHeads, differing, read_heads, signed_heads
from kessa.platform.models import AuditChain, Programme
from kessa.platform.verify import find_errors
from kessa_core.errors import BadEvent
from kessa_core.records import Break, check, read


class Command(BaseCommand):
    """Checks every programme of the database, or an exported file."""

    help = "Verify the audit trail of every programme, or of an exported file."

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("what", choices=["verify", "head"])
        parser.add_argument("file", nargs="?", type=Path)
        parser.add_argument("--head", type=Path, help="Heads signed before, or a backup with them.")

    def handle(self, *args: object, **options: Any) -> None:
        if options["what"] == "head":
            self._write_heads(options["file"])
            return
        found = sum(1 for _ in self._told(options["file"]))
        if options["head"]:
            found += self._compare(options["head"])
        if found:
            raise CommandError(f"{found} break{'s' if found > 1 else ''} in the record")

    def _write_heads(self, file: Path | None) -> None:
        text = json.dumps(signed_heads(), indent=1)
        if file is None:
            self.stdout.write(text)
        elif file.exists():
            raise CommandError(f"{file} is there already; heads are never overwritten.")
        else:
            file.write_text(text + "\n", encoding="utf-8")
            self.stdout.write(f"{file}: keep it where this machine cannot change it.")

    def _compare(self, file: Path) -> int:
        """How many records are not those whose heads were signed."""
        try:
            found = list(differing(read_heads(file)))
        except BadHeads as error:
            raise CommandError(str(error)) from None
        for slug, one in found:
            self.stderr.write(f"{slug}: entry {one.number}: {one.what}")
        if not found:
            self.stdout.write(f"{file}: every head is in the record")
        return len(found)

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
