"""Bad input, conflicts and requests that cannot be taken as answers a person can act on, never as a fault."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.core.exceptions import RequestDataTooBig
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from velamen.core.errors import BadInput
from velamen.web.jobs.history import Conflict
from velamen.web.jobs.models import Unreadable
from velamen.web.work.outside import TooHeavy

NOT_ALLOWED = 405
TAKES_EDITS = "This address takes edits only, and shows nothing by itself: go back to the job."
NOT_READ = "What was sent cannot be read: reload the page and do it again."
NO_ROOM = "That needs more memory than there is: do it with fewer shapes at a time. Nothing saved is lost."
NOT_FOR_YOU = "This is not for you."
STALE = "The page was made before you signed in: reload it and do that again. Nothing saved is lost."


class SentenceMiddleware:
    """Turns BadInput into 422 and Conflict into 409, as a message or a page; says what a bare 405 does not."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        answer = self.get_response(request)
        if answer.status_code != NOT_ALLOWED:
            return answer
        told = with_sentence(request, TAKES_EDITS, answer.status_code)
        told["Allow"] = answer["Allow"]
        return told

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponse | None:
        if isinstance(error, Conflict):
            return _answer(request, "stages/conflict", 409, {"conflict": error, "job": error.head.job})
        if isinstance(error, Unreadable):
            job = getattr(request, "job", None)
            return _answer(request, "stages/unreadable", 422, {"sentence": str(error), "job": job})
        if isinstance(error, TooHeavy):
            job = getattr(request, "job", None)
            return _answer(request, "stages/too_heavy", 422, {"sentence": str(error), "job": job})
        if isinstance(error, MemoryError):
            return with_sentence(request, NO_ROOM, 422)
        if isinstance(error, BadInput):
            return with_sentence(request, str(error), 422)
        return None


def with_sentence(request: HttpRequest, sentence: str, status: int) -> HttpResponse:
    """A sentence as the message of a page that asked for a part, or as a page of its own."""
    return _answer(request, "stages/sentence", status, {"sentence": sentence})


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """What is told of a request that was not read."""
    if isinstance(exception, RequestDataTooBig):
        most = settings.DATA_UPLOAD_MAX_MEMORY_SIZE // 1_000_000
        return with_sentence(request, f"That edit is larger than {most} MB: choose fewer shapes at a time.", 413)
    return with_sentence(request, NOT_READ, 400)


def forbidden(request: HttpRequest, exception: Exception) -> HttpResponse:
    """What is told of what a person may not do."""
    return with_sentence(request, str(exception) or NOT_FOR_YOU, 403)


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    """What is told of a form whose page is too old."""
    return with_sentence(request, STALE, 403)


def _answer(request: HttpRequest, name: str, status: int, context: dict[str, Any]) -> HttpResponse:
    if not request.headers.get("HX-Request"):
        context["back"] = request.path
        return render(request, "stages/told.html", {**context, "part": f"{name}.html"}, status=status)
    answer = render(request, f"{name}.html", context, status=status)
    answer["HX-Retarget"] = "#told"
    answer["HX-Reswap"] = "innerHTML"
    return answer
