"""Who asks: what a view hands over to another process is done for the person whose request it is."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse

from velamen.web.work.outside import Asker, ask_for


class AskerMiddleware:
    """Knows a request's shop, person and job before its view is called."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: Any, args: Any, kwargs: dict[str, Any]) -> None:
        shop = request.shop.pk if request.shop else 0
        ask_for(Asker(shop, request.user.pk or 0, kwargs.get("job_id")))
