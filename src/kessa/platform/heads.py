"""The heads of all chains, signed: kept elsewhere, they show even a record that was rewritten as a
whole. The key lies outside the database (KESSA_HEAD_KEY, else the application's secret key)."""

import json
import tarfile
from collections.abc import Iterator
from datetime import UTC
from pathlib import Path
from typing import Any

from django.conf import settings
from django.core.signing import Signer
from django.utils.crypto import constant_time_compare

from kessa.platform import clock
from kessa.platform.models import AuditChain, AuditEntry
from kessa_core.errors import CoreError
from kessa_core.records import Break, sha

FORMAT = "kessa-heads/1"
LIST = "list.json"
"""Where a backup keeps its heads, under the name "heads"."""


class BadHeads(CoreError):
    """A file of heads that cannot be read, or was not signed with this key."""


def signed_heads() -> dict[str, Any]:
    """Number and hash of the last entry of every programme, with time and signature."""
    chains = AuditChain.objects.select_related("programme").order_by("programme__slug")
    made = clock.now().astimezone(UTC).isoformat(timespec="seconds")
    heads = [
        {"programme": one.programme.slug, "number": one.number, "hash": one.hash} for one in chains
    ]
    content = {"format": FORMAT, "made": made, "heads": heads}
    return content | {"signature": _signature(content)}


def read_heads(file: Path) -> list[dict[str, Any]]:
    """The heads in a file of their own or in a backup.

    Raises BadHeads where there are none, or the signature is not of this key.
    """
    try:
        if tarfile.is_tarfile(file):
            with tarfile.open(file) as archive:
                listed = archive.extractfile(LIST)
                content = json.load(listed)["heads"] if listed else {}
        else:
            content = json.loads(file.read_text(encoding="utf-8"))
        signature = content.pop("signature")
        heads: list[dict[str, Any]] = content["heads"]
    except (OSError, ValueError, KeyError, TypeError, AttributeError, tarfile.TarError):
        raise BadHeads(f"{file} holds no heads of an audit.") from None
    if not constant_time_compare(signature, _signature(content)):
        raise BadHeads(f"The heads in {file} were changed, or signed with another key.")
    return heads


def differing(heads: list[dict[str, Any]]) -> Iterator[tuple[str, Break]]:
    """Each programme whose record is not the one that a head was taken of, or shorter."""
    for head in heads:
        slug, number = head["programme"], head["number"]
        if number == 0:
            continue
        entry = AuditEntry._base_manager.filter(programme__slug=slug, number=number).first()
        if entry is None:
            yield slug, Break(number, "the record ends before the head that was signed")
        elif entry.hash != head["hash"]:
            yield slug, Break(number, "the record is not the one whose head was signed")


def _signature(content: dict[str, Any]) -> str:
    signer = Signer(key=settings.HEAD_KEY, salt="kessa.audit-heads", algorithm="sha256")
    return signer.signature(sha(content))
