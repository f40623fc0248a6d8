"""Room on the disk: while there is hardly any, edits are refused in a sentence, before the database has to stop."""

from __future__ import annotations

import shutil
from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse

from velamen.web.accounts.roles import SAFE
from velamen.web.stages.errors import with_sentence

LEAST = 64_000_000  # bytes left for sessions, logs, and for what the database writes by itself
NO_ROOM = "The disk is full: nothing can be saved until whoever keeps the server makes room. Nothing saved is lost."
STILL = frozenset({"sign-in", "sign-out", "delete-job", "under-way", "job-under-way", "trace-preview"})


def is_room() -> bool:
    """Whether something can still be saved."""
    try:
        return shutil.disk_usage(settings.VAR).free >= LEAST
    except OSError:
        return True


class RoomMiddleware:
    """Refuses what saves something while there is no room."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        return self.get_response(request)

    def process_view(self, request: HttpRequest, view: object, args: object, kwargs: object) -> HttpResponse | None:
        if request.method in SAFE or request.resolver_match.url_name in STILL or is_room():
            return None
        return with_sentence(request, NO_ROOM, 507)
