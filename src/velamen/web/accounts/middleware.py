"""Who asks: visitors are led to sign in and back, a signed-in person's shop and unit of length put on the request."""

from collections.abc import Callable
from typing import Any
from urllib.parse import urlsplit

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.shortcuts import render
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme

from velamen.web.accounts.models import Member, Role
from velamen.web.accounts.roles import forbidden
from velamen.web.accounts.sessions import SEEN

SEEN_EVERY = 300.0  # seconds
ALWAYS = frozenset({"sign-in", "sign-out", "sign-up", "join", "healthz", "reset", "reset-sent", "reset-set",
                    "reset-done"})  # fmt: skip


class SignInMiddleware(LoginRequiredMiddleware):
    """Leads visitors to the page they sign in on, and from there back to the page they were on.

    That is never an address that takes edits: what was sent to it is gone, and it shows nothing by itself.
    """

    def handle_no_permission(self, request: HttpRequest, view_func: Callable[..., HttpResponse]) -> HttpResponse:
        part = bool(request.headers.get("HX-Request"))
        if request.method == "GET" and not part:
            return super().handle_no_permission(request, view_func)
        was_on = request.headers.get("HX-Current-URL" if part else "Referer", "")
        ours = url_has_allowed_host_and_scheme(was_on, allowed_hosts={request.get_host()})
        back = urlsplit(was_on)._replace(scheme="", netloc="", fragment="").geturl() if ours else "/"
        sign_in = redirect_to_login(back, self.get_login_url(view_func)).url
        if not part:
            return HttpResponseRedirect(sign_in)
        answer = HttpResponse("Sign in again: the page opens where you were.", status=401, content_type="text/plain")
        answer["HX-Redirect"] = sign_in
        return answer


class ShopMiddleware:
    """request.shop: the person's shop, None for visitors; request.unit: "mm" or "in"; request.role: in the shop.

    Refuses what a role may not do, and all but the way back where the shop is in the bin.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.shop, request.unit, request.role, request.looks = None, "mm", "", False
        if request.user.is_authenticated:
            member = Member.objects.select_related("shop").filter(user=request.user).first()
            if member is not None:
                request.shop, request.unit, request.role = member.shop, member.unit, member.role
                request.looks = member.role == Role.MACHINE
                _seen(request)
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: Any, args: Any, kwargs: Any) -> HttpResponse | None:
        name = request.resolver_match.url_name or ""
        if not request.user.is_authenticated or name in ALWAYS:
            return None
        if request.shop is None:
            raise PermissionDenied("This person belongs to no shop yet.")
        if request.shop.binned and name not in ("shop-back", "export-shop"):
            return render(request, "accounts/shop_in_bin.html", status=403)
        if why := forbidden(request, name):
            raise PermissionDenied(why)
        return None


def _seen(request: HttpRequest) -> None:
    """Keeps when a session was used last, every few minutes."""
    now = timezone.now().timestamp()
    if now - request.session.get(SEEN, 0.0) > SEEN_EVERY:
        request.session[SEEN] = now  # saved with the answer, and with it the time
