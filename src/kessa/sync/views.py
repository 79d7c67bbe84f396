"""The endpoint that takes events. It answers in JSON and never redirects."""

import json

from django.http import HttpRequest, JsonResponse
from django.utils import timezone

from kessa.bench.payload import answer
from kessa.permissions import Permission, needs
from kessa.sync.services import keep


@needs(Permission.TEST, answers="json")
def receive(request: HttpRequest) -> JsonResponse:
    """Events in, {kept, refused, runs, now} out. A run's answer is what the server folded."""
    if request.method != "POST":
        return JsonResponse({"error": "Send events with POST."}, status=405)
    if request.headers.get("X-Kessa-Person", str(request.user.pk)) != str(request.user.pk):
        return JsonResponse({"error": "These acts belong to another sign-in."}, status=409)
    try:
        sent = json.loads(request.body)["events"]
        if not isinstance(sent, list):
            raise TypeError
    except (ValueError, KeyError, TypeError, RecursionError):
        return JsonResponse({"error": 'Send {"events": [...]} as JSON.'}, status=400)
    received = keep(request.programme, request.user, sent)
    return JsonResponse(
        {
            "kept": received.kept,
            "refused": received.refused,
            "runs": {str(run.pk): answer(run, state) for run, state in received.runs},
            "now": timezone.now().isoformat(timespec="milliseconds"),
            "person": request.user.pk,
        }
    )
