"""Which unfinished tests wait for hours or days, and until when."""

from collections.abc import Sequence
from uuid import UUID

from kessa.platform import clock
from kessa.platform.models import Programme
from kessa.runs.models import Run
from kessa.runs.services import events_of_each
from kessa_core.runs.reminders import Reminder, has_long_wait, reminder_of


def reminders_of(programme: Programme, runs: Sequence[Run]) -> dict[UUID, Reminder]:
    """The reminder of each run that stands at a long wait; one query, none where no method has
    such a wait."""
    long = [run for run in runs if has_long_wait(run.version.method)]
    if not long:
        return {}
    events = events_of_each(programme.pk, long)
    found = {run.pk: reminder_of(run.method, events[run.pk]) for run in long}
    return {key: one for key, one in found.items() if one}


def remind(programme: Programme, runs: Sequence[Run]) -> None:
    """Give each of these runs its reminder and what it says now (waiting, due, late)."""
    found = reminders_of(programme, runs)
    now = clock.now()
    for run in runs:
        run.reminder = found.get(run.pk)
        run.reminded = run.reminder.when(now) if run.reminder else ""
