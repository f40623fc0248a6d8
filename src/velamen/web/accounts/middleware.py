"""Who asks: visitors are led to sign in and back, a signed-in person's shop and unit of length put on the request."""

from collections.abc import Callable
from urllib.parse import urlsplit

from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse, HttpResponseRedirect
from django.utils.http import url_has_allowed_host_and_scheme

from velamen.web.accounts.models import Member


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
    """request.shop: the person's shop, None for visitors; request.unit: "mm" or "in"."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.shop, request.unit = None, "mm"
        if request.user.is_authenticated:
            member = Member.objects.select_related("shop").filter(user=request.user).first()
            if member is None and not request.path.startswith("/sign-"):
                raise PermissionDenied("This person belongs to no shop yet.")
            if member is not None:
                request.shop, request.unit = member.shop, member.unit
        return self.get_response(request)


def address_of(request: HttpRequest) -> str:
    """The address that a request comes from, as the front tells it."""
    return str(request.META.get("HTTP_X_REAL_IP") or request.META.get("REMOTE_ADDR", ""))
