"""The audit in sentences, as each app describes its acts."""

from typing import Any

from kessa.platform.registry import registry

SHOWN = ("why", "reason", "role", "count", "name", "decision", "was")


def sentence(act: str) -> str:
    """The act in words."""
    return registry.sentences.get(act, act)


def details(data: dict[str, Any]) -> str:
    """What of an entry's data is worth reading."""
    said = {key: data[key] for key in SHOWN if data.get(key) not in (None, "")}
    counted = f"{said.pop('count')} acts" if "count" in said else ""
    return " · ".join(str(part) for part in (counted, *said.values()) if part)


def link_of(slug: str, about: str) -> str:
    """The page of what an entry is about; empty where there is none."""
    model, _, number = about.partition(":")
    to = registry.links.get(model)
    return to(slug, number) if to else ""
