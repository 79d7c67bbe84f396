"""The endpoints that take photographs, one a request, each under the hash of its file."""

from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, JsonResponse
from django.http.request import RawPostDataException
from django.views.decorators.csrf import csrf_exempt

from kessa.pages.sending.requests import OTHERS, WITHDRAWN, RequestError, device_token, throttle
from kessa.photos.services import keep_photograph
from kessa.platform.errors import ActionNotAllowed
from kessa.platform.models import Person, Programme
from kessa.platform.permissions import Permission, by_capability, needs
from kessa.platform.requests import ProgrammeRequest

MOST_A_MINUTE = 60
KEY_HEADER = "X-Kessa-Photograph"


@needs(Permission.TEST, answers="json")
def receive(request: ProgrammeRequest) -> JsonResponse:
    """A picture in, {kept: its key} out."""
    if request.headers.get("X-Kessa-Person", str(request.user.pk)) != str(request.user.pk):
        return JsonResponse({"error": OTHERS}, status=409)
    return _take(request, request.programme, request.user)


@csrf_exempt
@by_capability
def append(request: HttpRequest) -> JsonResponse:
    """The same with a device's capability instead of a sign-in."""
    found = device_token(request)
    if found is None:
        return JsonResponse({"error": WITHDRAWN}, status=401)
    return _take(request, found.programme, found.person)


def _take(request: HttpRequest, programme: Programme, person: Person) -> JsonResponse:
    try:
        if request.method != "POST":
            raise RequestError(405, "Send with POST.")
        throttle(f"photograph:{programme.pk}:{person.pk}", MOST_A_MINUTE)
        kept = keep_photograph(programme, person, request.headers.get(KEY_HEADER, ""), request.body)
    except RequestDataTooBig:
        return JsonResponse({"error": "This photograph is too large."}, status=413)
    except RawPostDataException:
        return JsonResponse({"error": "Send the picture as it is."}, status=400)
    except ActionNotAllowed as refusal:
        return JsonResponse({"error": str(refusal)}, status=422)
    except RequestError as wrong:
        return wrong.response
    return JsonResponse({"kept": kept.key})
