"""What a form is bound to."""

from django.http import HttpRequest, QueryDict


def form_data(request: HttpRequest) -> QueryDict | None:
    """The data of a POST, even of an empty one; None for a page that is merely opened."""
    return request.POST if request.method == "POST" else None
