"""Security headers on every answer, and a line in the log for it."""

import logging
import time
import uuid
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self'",
        "img-src 'self' data:",
        "font-src 'self'",
        "connect-src 'self'",
        "worker-src 'self'",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)


class SecurityHeaders:
    """Adds the content policy and the permissions policy."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault(
            "Permissions-Policy", "camera=(), microphone=(), geolocation=()"
        )
        return response


class Requests:
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
