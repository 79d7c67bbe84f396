"""How far a piece of background work has come. It is told as the name of the work's own connection
to the database: others can read that while the work's transaction is still open, and it is gone
when the work ends, however it ends."""

from dataclasses import dataclass

from django.db import connection

LONGEST = 63  # PostgreSQL cuts a longer name


@dataclass(frozen=True)
class Progress:
    """*done* of *total*."""

    done: int
    total: int

    @property
    def percent(self) -> int:
        """Rounded down, so that 100 means done."""
        return 100 * self.done // self.total if self.total else 0


def tell(work: str, done: int, total: int) -> None:
    """Inside a transaction: *work* has come to *done* of *total*.

    Raises ValueError for a name too long to be told whole.
    """
    name = f"kessa {work} {done} {total}"
    if len(name) > LONGEST:
        raise ValueError(f"{name!r} is longer than {LONGEST} characters.")
    with connection.cursor() as cursor:
        cursor.execute("SELECT set_config('application_name', %s, true)", [name])


def told(work: str) -> Progress | None:
    """How far *work* has come; None while nobody is at it."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT application_name FROM pg_stat_activity "
            "WHERE datname = current_database() AND starts_with(application_name, %s)",
            [f"kessa {work} "],
        )
        found = cursor.fetchone()
    if not found:
        return None
    done, total = found[0].split()[-2:]
    return Progress(int(done), int(total))
