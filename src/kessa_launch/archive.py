"""A backup as one file: the database, the photographs, and a list that says what must be in it."""

import hashlib
import io
import json
import tarfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import IO, Any

from kessa_launch.errors import LauncherError

FORMAT = "kessa-backup/1"
LIST, DUMP, MEDIA = "list.json", "database.dump", "media/"


@dataclass(frozen=True)
class Backup:
    """An archive that was opened and whose every part has its hash."""

    path: Path
    listed: dict[str, Any]

    @property
    def figures(self) -> dict[str, Any]:
        """Counts and hashes of the records, as they were in the restored copy."""
        found: dict[str, Any] = self.listed["figures"]
        return found

    @property
    def summary(self) -> str:
        """The counts that people ask for: "4 people, 77 runs, 76 results, 628 audit entries"."""
        return summary(self.figures)

    def unpack_dump(self, target: Path) -> None:
        """Write the database's dump to *target*."""
        with tarfile.open(self.path) as archive:
            found = archive.extractfile(DUMP)
            assert found is not None
            with target.open("wb") as file:
                while part := found.read(1 << 20):
                    file.write(part)

    def unpack_media(self, folder: Path) -> int:
        """Write the photographs that are not there yet; how many were written."""
        written = 0
        with tarfile.open(self.path) as archive:
            for name in sorted(self.listed["files"]):
                if not name.startswith(MEDIA):
                    continue
                target = folder / PurePosixPath(name).relative_to(MEDIA)
                if target.exists():
                    continue
                found = archive.extractfile(name)
                assert found is not None
                target.parent.mkdir(parents=True, exist_ok=True)
                target.write_bytes(found.read())
                written += 1
        return written


COUNTED = {
    "platform.Person": "people",
    "runs.Run": "runs",
    "results.Result": "results",
    "results.Evaluation": "evaluations",
    "platform.AuditEntry": "audit entries",
}


def summary(figures: dict[str, Any]) -> str:
    """The counts that people ask for."""
    counts = figures["counts"]
    return ", ".join(f"{counts[label]} {words}" for label, words in COUNTED.items())


def write(path: Path, dump: Path, media: Path, about: dict[str, Any]) -> None:
    """Write the archive beside its place and move it there when it is whole.

    Media that vanish or appear meanwhile do no harm: files are named by their content and never
    changed; the list names what is in the archive.
    """
    fresh = path.with_name(path.name + ".part")
    files: dict[str, str] = {}
    with tarfile.open(fresh, "w") as archive:
        for name, file in [(DUMP, dump), *_media(media)]:
            files[name] = _sha(file)
            archive.add(file, name, recursive=False)
        listed = json.dumps(about | {"format": FORMAT, "files": files}, indent=1).encode()
        entry = tarfile.TarInfo(LIST)
        entry.size = len(listed)
        archive.addfile(entry, io.BytesIO(listed))
    fresh.chmod(0o600)
    fresh.rename(path)


def read(path: Path) -> Backup:
    """Open an archive and compare every part with the list. Raises Trouble, naming what is off."""
    try:
        with tarfile.open(path) as archive:
            found = {entry.name: entry for entry in archive if entry.isfile()}
            listed = json.loads(archive.extractfile(LIST).read())  # type: ignore[union-attr]
            if listed.get("format") != FORMAT:
                raise LauncherError(
                    f"{path} has the format {listed.get('format')!r}, not {FORMAT}."
                )
            files: dict[str, str] = listed["files"]
            if any(PurePosixPath(n).is_absolute() or ".." in PurePosixPath(n).parts for n in files):
                raise LauncherError(f"{path} names files outside itself; nothing was restored.")
            for name, sha in files.items():
                if _sha_of(archive.extractfile(found[name])) != sha:
                    raise LauncherError(
                        f"{path}: {name} is not what was written; the file is damaged."
                    )
    except (OSError, KeyError, ValueError, AttributeError, tarfile.TarError) as error:
        raise LauncherError(f"{path} is not a whole backup: {error}") from None
    return Backup(path, listed)


def _media(folder: Path) -> Iterator[tuple[str, Path]]:
    for file in sorted(folder.rglob("*")) if folder.exists() else ():
        if file.is_file():
            yield MEDIA + file.relative_to(folder).as_posix(), file


def _sha(file: Path) -> str:
    with file.open("rb") as opened:
        return _sha_of(opened)


def _sha_of(opened: IO[bytes] | None) -> str:
    assert opened is not None
    found = hashlib.sha256()
    while part := opened.read(1 << 20):
        found.update(part)
    return found.hexdigest()
