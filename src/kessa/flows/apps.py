"""What follows from an act, said once."""

from django.apps import AppConfig

from kessa.platform.registry import registry


class FlowsConfig(AppConfig):
    name = "kessa.flows"

    def ready(self) -> None:
        """Tell the platform what can be wrong with background work."""
        from kessa.flows import health

        registry.check_health(health.jobs)
