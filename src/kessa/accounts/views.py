"""Signing in and out, and the way to one's own programme."""

from django.contrib.auth import views as auth
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render

from kessa.accounts.models import Membership
from kessa.permissions import public, signed_in

sign_in = public(
    auth.LoginView.as_view(template_name="accounts/sign_in.html", redirect_authenticated_user=True)
)
sign_out = public(auth.LogoutView.as_view())


@signed_in
def home(request: HttpRequest) -> HttpResponse:
    """On to Today of the person's programme; a choice when there are several."""
    memberships = list(Membership.objects.of(request.user).order_by("programme__name"))
    if len(memberships) == 1:
        return redirect("today", programme=memberships[0].programme.slug)
    return render(request, "accounts/programmes.html", {"memberships": memberships})
