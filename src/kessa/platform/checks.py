"""System checks: what keeps the server from starting."""

from typing import Any

from django.apps import apps
from django.core.checks import CheckMessage, Error, register

from kessa.platform.registry import registry


@register()
def every_model_is_sealed_or_exempt(**_: Any) -> list[CheckMessage]:
    """Every model says whether the audit seals its rows, and if not, why."""
    known = registry.sealed.keys() | registry.exempt.keys()
    return [
        Error(
            f"{model._meta.label} neither has a seal nor is exempt from one.",
            hint="Say so in the ready() of its app: registry.seal() or exempt_from_seals().",
            obj=model,
            id="kessa.E001",
        )
        for config in apps.get_app_configs()
        if config.name.startswith("kessa.")
        for model in config.get_models()
        if model._meta.label not in known
    ]
