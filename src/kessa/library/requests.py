"""What a request asks of the library."""

from django.http import Http404

from kessa.library.models import MethodVersion
from kessa.library.services import in_use
from kessa.platform.requests import ProgrammeRequest


def wanted_version(request: ProgrammeRequest) -> MethodVersion:
    """The method that was chosen, in use from now on; 404 for one that does not exist."""
    wanted = request.POST.get("method", "").replace("\x00", "")
    version = in_use(request.programme, wanted, request.user)
    if version is None:
        raise Http404
    return version
