"""The audit in sentences, as each app describes its acts."""

from typing import Any

from kessa.platform.registry import registry

SHOWN = ("why", "reason", "role", "name", "decision", "was")
COUNTED = {"count": "act", "judged": "result"}
"""What an entry counts, by the name it counts under."""


def sentence(act: str) -> str:
    """The act in words."""
    return registry.sentences.get(act, act)


def details(data: dict[str, Any]) -> str:
    """What of an entry's data is worth reading."""
    said = {key: data[key] for key in SHOWN if data.get(key) not in (None, "")}
    counted = [
        f"{data[key]} {one}{'' if data[key] == 1 else 's'}"
        for key, one in COUNTED.items()
        if key in data
    ]
    return " · ".join(str(part) for part in (*counted, *said.values()))


def link_of(slug: str, about: str) -> str:
    """The page of what an entry is about; empty where there is none."""
    model, _, number = about.partition(":")
    to = registry.links.get(model)
    return to(slug, number) if to else ""
