"""What the endpoints that devices send to have in common."""

from django.http import HttpRequest, JsonResponse

from kessa.people.device_tokens import of_token
from kessa.people.models import DeviceToken
from kessa.people.throttle import TooOften, count

OTHERS = "These actions belong to another person."
WITHDRAWN = "This device may no longer send. Sign in again, or ask a manager."


class RequestError(Exception):
    """A request that is answered with one sentence and a status."""

    def __init__(self, status: int, words: str) -> None:
        super().__init__(words)
        self.status = status

    @property
    def response(self) -> JsonResponse:
        """The answer, with when to try again where too much was sent at once."""
        response = JsonResponse({"error": str(self)}, status=self.status)
        if self.status == 429:
            response["Retry-After"] = "10"
        return response


def device_token(request: HttpRequest) -> DeviceToken | None:
    """The capability that a device sends with, if it still holds."""
    scheme, _, token = request.headers.get("Authorization", "").partition(" ")
    return of_token(token.strip()) if scheme == "Kessa-Append" and token else None


def throttle(key: str, most: int) -> None:
    """Count one more within a minute. Raises RequestError where there were too many."""
    try:
        count(key, most, 60)
    except TooOften as full:
        raise RequestError(429, str(full)) from None
