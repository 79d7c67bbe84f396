"""Who may do what, in one place. The server does not start if a view declares no permission."""

from collections.abc import Callable, Iterator
from enum import StrEnum
from functools import wraps
from typing import Any, cast

from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import ImproperlyConfigured, PermissionDenied
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect
from django.template.response import SimpleTemplateResponse
from django.urls import URLPattern, URLResolver, get_resolver
from django.utils import timezone
from django_htmx.http import HttpResponseClientRedirect

from kessa.platform.models import Membership, Role
from kessa.platform.requests import ProgrammeRequest
from kessa.platform.scoping import narrow_to

SECOND_FACTOR = "second-factor"
"""In a session that began with a one-time code."""
View = Callable[..., HttpResponseBase]


class Permission(StrEnum):
    """What a role may do in its programme."""

    VIEW = "view"
    TEST = "test"
    REVIEW = "review"
    MANAGE = "manage"


GRANTS: dict[str, frozenset[Permission]] = {
    Role.VIEWER: frozenset({Permission.VIEW}),
    Role.MONITOR: frozenset({Permission.VIEW, Permission.TEST}),
    Role.REVIEWER: frozenset({Permission.VIEW, Permission.TEST, Permission.REVIEW}),
    Role.MANAGER: frozenset(Permission),
}


def may(role: str, permission: Permission) -> bool:
    """Whether *role* grants *permission*."""
    return permission in GRANTS[role]


def needs(permission: Permission, *, answers: str = "html") -> Callable[[View], View]:
    """The view belongs to a programme: only a member whose role grants *permission* gets in.

    Sets request.programme and request.role. Somebody else's programme does not exist (404); a
    missing permission is 403; signed out leads to the sign-in page, or is a 401 in JSON.
    """

    def decorate(view: View) -> View:
        @wraps(view)
        def guarded(request: HttpRequest, programme: str, **kwargs: Any) -> HttpResponseBase:
            if not request.user.is_authenticated:
                if answers == "json":
                    return JsonResponse({"error": "Sign in again to send."}, status=401)
                return _to_sign_in(request)
            mine = list(Membership.objects.for_person(request.user).active())
            membership = next((m for m in mine if m.programme.slug == programme), None)
            if membership is None:
                raise Http404
            if not may(membership.role, permission):
                if answers == "json":
                    return JsonResponse({"error": "Your role does not allow this."}, status=403)
                raise PermissionDenied
            if membership.programme.second_factor and not request.session.get(SECOND_FACTOR):
                if answers == "json":
                    words = "Sign in again with a one-time code to send."
                    return JsonResponse({"error": words}, status=401)
                return redirect("codes")
            narrowed = cast(ProgrammeRequest, request)
            narrowed.membership = membership
            narrowed.programme = membership.programme
            narrowed.role = membership.role
            narrowed.programme_count = len(mine)
            narrow_to(membership.programme_id)
            with timezone.override(membership.programme.timezone):
                response = view(request, **kwargs)
                if isinstance(response, SimpleTemplateResponse):
                    response.render()
                return response

        guarded.permission = permission  # type: ignore[attr-defined]
        return guarded

    return decorate


def signed_in(view: View) -> View:
    """The view needs a signed-in person but no programme."""

    @wraps(view)
    def guarded(request: HttpRequest, **kwargs: Any) -> HttpResponseBase:
        if not request.user.is_authenticated:
            return _to_sign_in(request)
        return view(request, **kwargs)

    guarded.permission = "signed in"  # type: ignore[attr-defined]
    return guarded


def _to_sign_in(request: HttpRequest) -> HttpResponse:
    """To the sign-in page and back; a request for a part of a page leads the whole page there."""
    htmx = getattr(request, "htmx", None)
    if not htmx:
        return redirect_to_login(request.get_full_path())
    page = htmx.current_url_abs_path or request.get_full_path()
    return HttpResponseClientRedirect(redirect_to_login(page).url)


def by_capability(view: View) -> View:
    """The view checks a device's capability itself; a sign-in means nothing to it."""
    view.permission = "capability"  # type: ignore[attr-defined]
    return view


def public(view: View) -> View:
    """The view is for everybody, signed in or not."""

    @wraps(view)
    def open_to_all(request: HttpRequest, **kwargs: Any) -> HttpResponseBase:
        return view(request, **kwargs)

    open_to_all.permission = "public"  # type: ignore[attr-defined]
    return open_to_all


def every_pattern(resolver: URLResolver | None = None, prefix: str = "") -> Iterator[URLPattern]:
    """Every URL pattern of the project."""
    for entry in (resolver or get_resolver()).url_patterns:
        if isinstance(entry, URLResolver):
            yield from every_pattern(entry)
        else:
            yield entry


def undeclared() -> list[str]:
    """The patterns whose view declares no permission."""
    return [
        str(pattern.pattern)
        for pattern in every_pattern()
        if not hasattr(pattern.callback, "permission")
    ]


def refuse_undeclared() -> None:
    """Raise ImproperlyConfigured when a view declares no permission."""
    if missing := undeclared():
        raise ImproperlyConfigured(f"These URLs declare no permission: {', '.join(missing)}")
