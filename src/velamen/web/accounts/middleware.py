"""Puts the shop of the signed-in person, and their unit of length, on the request."""

from collections.abc import Callable

from django.core.exceptions import PermissionDenied
from django.http import HttpRequest, HttpResponse

from velamen.web.accounts.models import Member


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
