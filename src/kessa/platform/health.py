"""What can be wrong with an installation, each with how to mend it."""

import os
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from pathlib import Path
from zoneinfo import available_timezones

from django.conf import settings
from django.core.checks import Tags, run_checks
from django.db import DatabaseError, connection
from django.db.migrations.executor import MigrationExecutor

from kessa.platform.models import Membership, Programme, Role
from kessa.platform.registry import registry
from kessa.platform.trouble import cannot_write, remembered
from kessa.platform.verify import find_errors

Check = Callable[[], Iterator[str]]


def database() -> Iterator[str]:
    """It answers, speaks UTF-8 and is new enough."""
    with connection.cursor() as cursor:
        cursor.execute("SHOW server_encoding")
        encoding = cursor.fetchone()[0]
        cursor.execute("SHOW server_version_num")
        version = int(cursor.fetchone()[0])
        cursor.execute("SELECT now()")
        apart = abs((cursor.fetchone()[0] - datetime.now(UTC)).total_seconds())
    if wrong := cannot_write() or remembered():
        yield f"{wrong} Make room, then start again; readings wait on their devices."
    if encoding != "UTF8":
        yield f"The database keeps text as {encoding}. Make a new one with ENCODING 'UTF8'."
    if version < 150000:
        yield f"PostgreSQL {version // 10000} is too old; 15 or newer is needed."
    if apart > 5:
        yield f"The clocks of application and database are {apart:.0f} s apart. Set them by NTP."


def migrations() -> Iterator[str]:
    """The tables fit this release."""
    executor = MigrationExecutor(connection)
    pending = executor.migration_plan(executor.loader.graph.leaf_nodes())
    if pending:
        yield f"{len(pending)} migrations are pending. Start ./kessa serve or demo once."


def zones() -> Iterator[str]:
    """The time zones of all programmes are known here."""
    known = available_timezones()
    for programme in Programme.objects.exclude(timezone__in=known):
        yield f"{programme} has the unknown time zone {programme.timezone}. Set it in its settings."


def managers() -> Iterator[str]:
    """Every programme has somebody who manages it."""
    managed = Membership.objects.active().filter(role=Role.MANAGER).values("programme")
    for programme in Programme.objects.exclude(pk__in=managed):
        yield f"{programme} has no manager. Give somebody the role in ./kessa manage shell."


def folders() -> Iterator[str]:
    """Photographs can be written, styles and scripts were collected."""
    for name, folder in (("KESSA_MEDIA_ROOT", settings.MEDIA_ROOT),):
        if not folder or not os.access(folder, os.W_OK):
            yield f"{name} ({folder or 'not set'}) cannot be written to. Make the folder writable."
    if not settings.DEBUG and not Path(settings.STATIC_ROOT, "staticfiles.json").exists():
        yield "Styles and scripts were not collected. Start ./kessa serve or demo once."


def security() -> Iterator[str]:
    """Django's own deployment checks; a demo on this machine is not asked."""
    if settings.LOCAL:
        return
    for found in run_checks(tags=[Tags.security], include_deployment_checks=True):
        yield f"{found.msg} {found.hint or ''}".strip()


def audit() -> Iterator[str]:
    """The audit of every programme is whole."""
    for programme in Programme.objects.order_by("slug"):
        for found in find_errors(programme):
            where = f"{programme.slug}, entry {found.number}"
            yield f"{where}: {found.what}. Compare with a backup."


CHECKS: tuple[Check, ...] = (
    database, migrations, zones, managers, folders, security, audit,
)  # fmt: skip


def checkup() -> Iterator[tuple[str, list[str]]]:
    """Each check's name with what it found wrong; without a database the rest is left out."""
    for check in registry.health:
        try:
            yield check.__name__, list(check())
        except DatabaseError as error:
            words = f"The database does not answer as it should: {str(error).splitlines()[0]}"
            yield check.__name__, [f"{words}. Check KESSA_DB_* and that the server runs."]
            if check is database:
                return
