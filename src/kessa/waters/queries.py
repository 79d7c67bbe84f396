"""Points in the domain's words."""

from typing import Any

from django.db import models


class PointQuery(models.QuerySet[Any]):
    """of(programme)"""

    def of(self, programme: Any) -> "PointQuery":
        return self.filter(programme=programme).select_related("water", "pair__water")
