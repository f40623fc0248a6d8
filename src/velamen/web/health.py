"""Whether the application can answer, for whoever watches it; and what is told while its database is away."""

from __future__ import annotations

import sys

from django.contrib.auth.decorators import login_not_required
from django.db import DatabaseError, InterfaceError, connection
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET

RETRY = "10"  # seconds


@login_not_required
@never_cache
@require_GET
def healthz(request: HttpRequest) -> HttpResponse:
    """200 where the database answers, 503 where it does not."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except (DatabaseError, InterfaceError):
        return HttpResponse("database away\n", status=503, content_type="text/plain")
    return HttpResponse("ok\n", content_type="text/plain")


def fault(request: HttpRequest) -> HttpResponse:
    """The page of a fault of ours: that the database is away where that is why, told without asking it anything."""
    if not isinstance(sys.exc_info()[1], (DatabaseError, InterfaceError)):
        return render(None, "500.html", status=500)
    answer = render(None, "away.html", status=503)
    answer["Retry-After"] = RETRY
    return answer
