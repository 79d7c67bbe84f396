"""What every page knows: programme, role, places."""

from typing import Any

from django.http import HttpRequest

from kessa.permissions import Permission, may

PLACES = (
    ("today", "Today"),
    ("waters", "Waters"),
    ("bench-list", "Bench"),
    ("log", "Log"),
    ("library", "Library"),
)
INSIDE = {
    "point": "waters",
    "safety": "waters",
    "context": "waters",
    "take-sample": "waters",
    "bench": "bench-list",
    "result": "log",
    "method": "library",
}


def page(request: HttpRequest) -> dict[str, Any]:
    """Programme, role and the place the page lies in; empty outside a programme."""
    programme = getattr(request, "programme", None)
    if programme is None:
        return {}
    name = request.resolver_match.url_name if request.resolver_match else ""
    return {
        "programme": programme,
        "role": request.role,
        "places": PLACES,
        "place_now": INSIDE.get(name, name),
        "can_test": may(request.role, Permission.TEST),
    }
