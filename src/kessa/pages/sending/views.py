"""The endpoints that take events. They answer in JSON and never redirect."""

import json
from typing import Annotated, Any, TypeVar
from uuid import UUID

from django.core.exceptions import RequestDataTooBig
from django.db.models import Q
from django.http import Http404, HttpRequest, JsonResponse
from django.http.request import RawPostDataException
from django.utils import timezone
from django.views.decorators.csrf import csrf_exempt
from pydantic import AfterValidator, BaseModel, BeforeValidator, ValidationError

from kessa.flows.receiving import Sender, keep_from
from kessa.pages.bench.payload import answer
from kessa.people.agents import device_of
from kessa.people.device_tokens import allow, of_token
from kessa.people.throttle import TooOften, count
from kessa.platform.permissions import Permission, by_capability, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.runs.models import Event, Run
from kessa.runs.services import state_of
from kessa_core.runs.events import is_identifier

MOST_A_MINUTE = 1200
Body = TypeVar("Body", bound=BaseModel)


class RequestError(Exception):
    """A request that is answered with one sentence and a status."""

    def __init__(self, status: int, words: str) -> None:
        super().__init__(words)
        self.status = status


def _readable(since: Any) -> dict[UUID, int]:
    """{run: the last arrival that the page knows}; what cannot be read is left out."""
    known: dict[UUID, int] = {}
    for run_id, arrival in list((since if isinstance(since, dict) else {}).items())[:8]:
        try:
            run = UUID(str(run_id))
        except ValueError:
            continue
        if isinstance(arrival, int) and not isinstance(arrival, bool) and 0 <= arrival < 2**31:
            known[run] = arrival
    return known


def _identifier(device: str) -> str:
    if not is_identifier(device):
        raise ValueError("device must be 8 to 64 letters, digits or hyphens.")
    return device


class Sending(BaseModel):
    """Acts, each read by itself, and what the page knows of its runs."""

    events: list[Any]
    since: Annotated[dict[UUID, int], BeforeValidator(_readable)] = {}


class Asking(BaseModel):
    """The device that wants to append."""

    device: Annotated[str, AfterValidator(_identifier)]


@needs(Permission.TEST, answers="json")
def receive(request: ProgrammeRequest) -> JsonResponse:
    """Events in, {kept, refused, runs, now} out. A run's answer is what the server folded."""
    if request.headers.get("X-Kessa-Person", str(request.user.pk)) != str(request.user.pk):
        return JsonResponse({"error": "These actions belong to another person."}, status=409)
    return _take(request, Sender(request.programme, request.user))


@csrf_exempt
@by_capability
def append(request: HttpRequest) -> JsonResponse:
    """The same with a device's capability instead of a sign-in; it can append and nothing else."""
    scheme, _, token = request.headers.get("Authorization", "").partition(" ")
    found = of_token(token.strip()) if scheme == "Kessa-Append" and token else None
    if found is None:
        words = "This device may no longer send. Sign in again, or ask a manager."
        return JsonResponse({"error": words}, status=401)
    return _take(request, Sender(found.programme, found.person, found.visit_id))


@needs(Permission.TEST, answers="json")
def capability(request: ProgrammeRequest, run_id: UUID) -> JsonResponse:
    """{device} in, {token, expires} out: permission to append to this run's visit."""
    run = Run.objects.of(request.programme).filter(pk=run_id).first()
    if run is None:
        raise Http404
    try:
        device = _read(request, Asking).device
        _throttle(f"capability:{request.user.pk}", 60)
    except RequestError as wrong:
        return JsonResponse({"error": str(wrong)}, status=wrong.status)
    token, made = allow(run.sample.visit, request.user, device, device_of(request))
    return JsonResponse({"token": token, "expires": made.expires_at.isoformat()})


def _take(request: HttpRequest, sender: Sender) -> JsonResponse:
    try:
        sent = _read(request, Sending)
        _throttle(f"send:{sender.programme.pk}:{sender.person.pk}", MOST_A_MINUTE)
    except RequestError as wrong:
        response = JsonResponse({"error": str(wrong)}, status=wrong.status)
        if wrong.status == 429:
            response["Retry-After"] = "10"
        return response
    received = keep_from(sender, sent.events)
    told = {str(run.pk): answer(run, state) for run, state in received.runs}
    others = _others(sender, sent.since, set(received.kept), told)
    return JsonResponse(
        {
            "kept": received.kept,
            "refused": received.refused,
            "runs": told,
            "others": others,
            "now": timezone.now().isoformat(timespec="milliseconds"),
            "person": sender.person.pk,
        }
    )


def _read(request: HttpRequest, body: type[Body]) -> Body:
    """What was sent, as this model has it."""
    if request.method != "POST":
        raise RequestError(405, "Send with POST.")
    try:
        return body.model_validate(json.loads(request.body))
    except RequestDataTooBig:
        raise RequestError(413, "Too much at once. Send fewer actions at a time.")
    except ValidationError as error:
        raise RequestError(400, _sentence(error))
    except (ValueError, RecursionError, RawPostDataException):
        raise RequestError(400, "Send one object as JSON.")


def _sentence(error: ValidationError) -> str:
    """What is wrong first, as one sentence."""
    first = error.errors(include_url=False)[0]
    if first["type"] == "value_error":
        return str(first["ctx"]["error"])
    name = first["loc"][0] if first["loc"] else ""
    return f'Send an object with "{name}" as JSON.' if name else "Send one object as JSON."


def _others(
    sender: Sender, since: dict[UUID, int], kept: set[str], told: dict[str, Any]
) -> dict[str, Any]:
    """What arrived in these runs, and in those that continued from them, since the page last heard.

    A run with news is also *told*: its state now.
    """
    known_or_next = Q(pk__in=since) | Q(continues__in=since)
    runs = Run.objects.of(sender.programme).filter(known_or_next)
    if sender.visit_id:
        runs = runs.filter(sample__visit_id=sender.visit_id)
    others = {}
    for run in runs:
        late = list(Event.objects.of_run(run).filter(arrival__gt=since.get(run.pk, 0)))
        if late and str(run.pk) not in told:
            told[str(run.pk)] = answer(run, state_of(run))
        others[str(run.pk)] = {
            "events": [event.as_core().as_json() for event in late if event.pk not in kept],
            "arrival": max((event.arrival for event in late), default=since.get(run.pk, 0)),
        }
    return others


def _throttle(key: str, most: int) -> None:
    try:
        count(key, most, 60)
    except TooOften as full:
        raise RequestError(429, str(full))
