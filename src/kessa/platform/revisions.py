"""Settings as revisions: what a water, a point, a lot or a membership said from a day on."""

from datetime import datetime
from typing import Any

from kessa.platform.audit import about
from kessa.platform.hashes import seal_of
from kessa.platform.models import Person, SettingRevision


def revise(
    setting: Any, by: Person | None, data: dict[str, Any], valid_from: datetime | None
) -> dict[str, Any]:
    """Keep what *setting* says from *valid_from* on (None: it has always said so); what the audit
    seals of it."""
    made = SettingRevision.objects.create(
        programme_id=setting.programme_id,
        about=about(setting),
        valid_from=valid_from,
        made_by=by,
        data=data,
    )
    return seal_of([made])
