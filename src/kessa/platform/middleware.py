"""What every request goes through: its scope, its headers, and a line in the log."""

import logging
import time
import uuid
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils.cache import patch_cache_control

from kessa.platform.scoping import request_scope


class PermissionsPolicy:
    """Pages of our own may use the camera, to read codes on packs; none uses microphone or
    position."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault(
            "Permissions-Policy", "camera=(self), microphone=(), geolocation=()"
        )
        return response


class NothingStored:
    """What a signed-in person is shown is kept by no cache between here and the browser, nor by the
    browser itself once it is left."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        if getattr(request, "user", None) and request.user.is_authenticated:
            patch_cache_control(response, private=True, no_store=True)
        return response


class RequestScopeMiddleware:
    """Within a request, reads of what programmes own have to name their programme."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        with request_scope():
            return self.get_response(request)


class RequestLogMiddleware:
    """One line a request: which route, how long, with what status; a number finds it again."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response
        self.log = logging.getLogger("kessa.requests")

    def __call__(self, request: HttpRequest) -> HttpResponse:
        begun, number = time.perf_counter(), uuid.uuid4().hex[:12]
        response = self.get_response(request)
        response.headers["X-Kessa-Request"] = number
        match = request.resolver_match
        said = {
            "request": number,
            "route": match.route if match else "",
            "method": request.method,
            "status": response.status_code,
            "ms": round(1000 * (time.perf_counter() - begun)),
            "programme": getattr(getattr(request, "programme", None), "pk", None),
        }
        self.log.info("request", extra=said)
        return response
