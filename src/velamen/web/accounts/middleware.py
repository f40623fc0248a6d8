"""Puts the shop of the signed-in person on the request."""

from django.core.exceptions import PermissionDenied

from velamen.web.accounts.models import Member


class ShopMiddleware:
    """request.shop: the person's shop, None for visitors."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        request.shop = None
        if request.user.is_authenticated:
            member = Member.objects.select_related("shop").filter(user=request.user).first()
            if member is None and not request.path.startswith("/sign-"):
                raise PermissionDenied("This person belongs to no shop yet.")
            request.shop = member.shop if member else None
        return self.get_response(request)
