"""Where things live: outside the clone, one folder for each clone and user.

The clone may lie where the database's user cannot enter, or belong to somebody else in part;
so nothing is ever written into it.
"""

import hashlib
import json
import os
import secrets
from dataclasses import dataclass
from pathlib import Path

CLONE = Path(os.environ.get("KESSA_CLONE") or Path(__file__).resolve().parents[2])
SECRETS = ("keeper", "database", "application", "django")
SOURCE = CLONE / "src"


@dataclass(frozen=True)
class StatePaths:
    """The folders of one clone for one user."""

    home: Path

    @property
    def locks(self) -> Path:
        return self.home / "locks"

    @property
    def data(self) -> Path:
        """Holds the database folders; the database's user must be able to enter it."""
        return self.home / "data"

    @property
    def static(self) -> Path:
        return self.home / "static"

    @property
    def media(self) -> Path:
        return self.home / "media"

    @property
    def secrets_file(self) -> Path:
        return self.home / "secrets.json"

    def secrets(self) -> dict[str, str]:
        """Passwords and keys of this installation, each made once, for its owner's eyes alone."""
        kept = json.loads(self.secrets_file.read_text()) if self.secrets_file.exists() else {}
        missing = [name for name in SECRETS if name not in kept]
        if missing:
            made = kept | {name: secrets.token_urlsafe(36) for name in missing}
            fresh = self.secrets_file.with_suffix(".new")
            fresh.unlink(missing_ok=True)
            descriptor = os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(descriptor, "w") as file:
                json.dump(made, file)
                file.flush()
                os.fsync(file.fileno())
            fresh.rename(self.secrets_file)
            return made
        return kept


def places() -> StatePaths:
    """The folders for this clone and this user, made if missing.

    KESSA_STATE names another folder for everything.
    """
    name = f"{CLONE.name}-{hashlib.sha256(str(CLONE).encode()).hexdigest()[:8]}"
    if chosen := os.environ.get("KESSA_STATE"):
        home = Path(chosen)
    elif os.geteuid() == 0:
        home = Path("/var/lib/kessa") / name
    else:
        base = os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share"
        home = Path(base) / "kessa" / name
    for folder in (home, home / "locks", home / "data", home / "media"):
        folder.mkdir(parents=True, exist_ok=True, mode=0o755)
    return StatePaths(home)
