"""What every page knows: programme, role, places."""

from typing import Any

from django.http import HttpRequest

from kessa.platform.permissions import Permission, may

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
    "correct-reading": "log",
    "correct-sample": "log",
    "answer": "log",
    "review": "log",
    "decide": "log",
    "new-point": "waters",
    "change-point": "waters",
    "new-lot": "library",
    "method": "library",
}


THEMES = ("day", "sunlight", "dark")


def page(request: HttpRequest) -> dict[str, Any]:
    """The theme; within a programme also programme, role and the place the page lies in."""
    chosen = request.COOKIES.get("theme", "")
    theme = chosen if chosen in THEMES else THEMES[0]
    programme = getattr(request, "programme", None)
    if programme is None:
        return {"theme": theme}
    name = request.resolver_match.url_name if request.resolver_match else ""
    return {
        "programme": programme,
        "role": request.role,
        "places": PLACES,
        "place_now": INSIDE.get(name, name),
        "can_test": may(request.role, Permission.TEST),
        "can_review": may(request.role, Permission.REVIEW),
        "can_manage": may(request.role, Permission.MANAGE),
        "theme": theme,
        "other_programmes": request.programme_count > 1,
        "programme_count": request.programme_count,
    }
