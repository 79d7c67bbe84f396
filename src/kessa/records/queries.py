"""Audit entries in the domain's words."""

from typing import Any

from django.db import models


class EntryQuery(models.QuerySet[Any]):
    """of(programme).on("result:12").newest_first()"""

    def of(self, programme: Any) -> "EntryQuery":
        return self.filter(programme=programme)

    def on(self, *about: str) -> "EntryQuery":
        return self.filter(about__in=about)

    def newest_first(self) -> "EntryQuery":
        return self.select_related("person").order_by("-number")

    def in_order(self) -> "EntryQuery":
        return self.order_by("number")
