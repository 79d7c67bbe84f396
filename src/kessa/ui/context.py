"""What every page knows: programme, role, places."""

from typing import Any, cast

from django.http import HttpRequest

from kessa.platform.permissions import Permission, may
from kessa.platform.registry import registry
from kessa.platform.requests import ProgrammeRequest

PLACES = (
    ("today", "Today"),
    ("waters", "Points"),
    ("bench-list", "Bench"),
    ("log", "Log"),
    ("library", "Library"),
)
THEMES = ("day", "sunlight", "dark")


def page(request: HttpRequest) -> dict[str, Any]:
    """The theme; within a programme also programme, role and the place the page lies in."""
    chosen = request.COOKIES.get("theme", "")
    theme = chosen if chosen in THEMES else THEMES[0]
    if not hasattr(request, "programme"):
        return {"theme": theme}
    request = cast(ProgrammeRequest, request)
    name = request.resolver_match.url_name if request.resolver_match else ""
    return {
        "programme": request.programme,
        "role": request.role,
        "places": PLACES,
        "place_now": registry.places.get(name or "", ""),
        "can_test": may(request.role, Permission.TEST),
        "can_review": may(request.role, Permission.REVIEW),
        "can_manage": may(request.role, Permission.MANAGE),
        "theme": theme,
        "other_programmes": request.programme_count > 1,
        "programme_count": request.programme_count,
    }
