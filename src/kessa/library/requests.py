"""What a request asks of the library."""

from django.http import Http404

from kessa.library.models import MethodVersion
from kessa.library.services import in_use
from kessa.platform.requests import ProgrammeRequest

MOST_AT_ONCE = 40
"""Tests that are begun in one go."""


def wanted_version(request: ProgrammeRequest) -> MethodVersion:
    """The method that was chosen, in use from now on; 404 for one that does not exist."""
    wanted = request.POST.get("method", "").replace("\x00", "")
    version = in_use(request.programme, wanted, request.user)
    if version is None:
        raise Http404
    return version


def wanted_versions(request: ProgrammeRequest) -> list[MethodVersion]:
    """The methods that were ticked, each once, in use from now on; those that do not exist are left
    out."""
    wanted = [one.replace("\x00", "") for one in request.POST.getlist("method")[:MOST_AT_ONCE]]
    found = (in_use(request.programme, one, request.user) for one in dict.fromkeys(wanted))
    return [version for version in found if version]
