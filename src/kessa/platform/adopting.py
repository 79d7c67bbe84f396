"""What an earlier release kept without a seal is sealed once, when this one takes over."""

from typing import Any

from django.apps import apps
from django.db import transaction

from kessa.platform.audit import record
from kessa.platform.hashes import seal_of
from kessa.platform.models import AuditEntry, Programme
from kessa.platform.revisions import revise_all
from kessa.platform.verify import unsealed_rows

SEALING = 2
"""Which kinds of rows are sealed from the beginning; a programme's first entry of this number says
that nothing of before is to be sealed any more."""
AT_ONCE = 500


@transaction.atomic
def adopt(programme: Programme) -> None:
    """Seal every row and setting of a programme that no entry seals yet; once, and never again."""
    entries = AuditEntry.objects.of(programme)
    if entries.filter(data__sealing=SEALING).exists():
        return
    for label, unsealed in list(unsealed_rows(programme)):
        rows = apps.get_model(label)._base_manager.filter(programme=programme)
        for start in range(0, len(unsealed), AT_ONCE):
            some = unsealed[start : start + AT_ONCE]
            seals = [seal_of(list(rows.filter(pk__in=some)))]
            record(programme, None, "record.adopted", programme, model=label, seals=seals)
    said: dict[str, Any] = {"sealing": SEALING, "seals": revise_all(programme, None)}
    record(programme, None, "record.adopted", programme, **said)
