"""Bad input and conflicts as answers a person can act on, never as a fault."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from velamen.core.errors import BadInput
from velamen.web.jobs.history import Conflict


class SentenceMiddleware:
    """Turns BadInput into 422 and Conflict into 409, as a message or a page."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if isinstance(error, Conflict):
            return self._answer(request, "stages/conflict", 409, {"conflict": error, "job": error.head.job})
        if isinstance(error, BadInput):
            return self._answer(request, "stages/sentence", 422, {"sentence": str(error)})
        return None

    def _answer(self, request: HttpRequest, name: str, status: int, context: dict[str, Any]) -> HttpResponse:
        if not request.htmx:
            context["back"] = request.path
            return render(request, "stages/told.html", {**context, "part": f"{name}.html"}, status=status)
        answer = render(request, f"{name}.html", context, status=status)
        answer["HX-Retarget"] = "#told"
        answer["HX-Reswap"] = "innerHTML"
        return answer
