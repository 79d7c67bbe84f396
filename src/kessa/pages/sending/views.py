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

from kessa.flows.receiving import Sender, UploadResult, keep_from
from kessa.pages.bench.payload import answer
from kessa.pages.sending.requests import OTHERS, WITHDRAWN, RequestError, device_token, throttle
from kessa.pages.visit.device_acts import keep_visit_acts
from kessa.people.agents import device_of
from kessa.people.device_tokens import allow
from kessa.platform.permissions import Permission, by_capability, needs
from kessa.platform.requests import ProgrammeRequest
from kessa.runs.models import Event, Run
from kessa.runs.services import state_of
from kessa_core.runs.made_on_device import is_identifier
from kessa_core.runs.visit_acts import is_visit_act

MOST_A_MINUTE = 1200
Body = TypeVar("Body", bound=BaseModel)


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
        return JsonResponse({"error": OTHERS}, status=409)
    return _take(request, Sender(request.programme, request.user))


@csrf_exempt
@by_capability
def append(request: HttpRequest) -> JsonResponse:
    """The same with a device's capability instead of a sign-in; it can append and nothing else."""
    found = device_token(request)
    if found is None:
        return JsonResponse({"error": WITHDRAWN}, status=401)
    return _take(request, Sender(found.programme, found.person, found.visit_id))


@needs(Permission.TEST, answers="json")
def capability(request: ProgrammeRequest, run_id: UUID) -> JsonResponse:
    """{device} in, {token, expires} out: permission to append to this run's visit."""
    run = Run.objects.of(request.programme).filter(pk=run_id).first()
    if run is None:
        raise Http404
    try:
        device = _read(request, Asking).device
        throttle(f"capability:{request.user.pk}", 60)
    except RequestError as wrong:
        return wrong.response
    token, made = allow(run.sample.visit, request.user, device, device_of(request))
    return JsonResponse({"token": token, "expires": made.expires_at.isoformat()})


def _take(request: HttpRequest, sender: Sender) -> JsonResponse:
    try:
        sent = _read(request, Sending)
        throttle(f"send:{sender.programme.pk}:{sender.person.pk}", MOST_A_MINUTE)
    except RequestError as wrong:
        return wrong.response
    received = _keep(sender, sent.events)
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


def _keep(sender: Sender, sent: list[Any]) -> UploadResult:
    """Keep acts of tests and of the visit: first those that come before a test, at last its end."""
    of_visit = [raw for raw in sent if is_visit_act(raw)]
    ends = [raw for raw in of_visit if raw.get("act") == "ended"]
    before = keep_visit_acts(sender, [raw for raw in of_visit if raw.get("act") != "ended"])
    received = keep_from(sender, [raw for raw in sent if not is_visit_act(raw)])
    for done in (before, keep_visit_acts(sender, ends)):
        received.kept += done.kept
        received.refused += done.refused
    return received


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
