"""What a person sets for themselves."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views.decorators.http import require_POST

from velamen.core.errors import BadInput
from velamen.core.lengths import UNITS
from velamen.web.accounts.models import Member


def locked_out(request: HttpRequest, response: object, credentials: object) -> HttpResponse:
    """What is told where a name was tried too often."""
    minutes = int(settings.AXES_COOLOFF_TIME.total_seconds() // 60)
    wrong = f"Too many wrong passwords for this name. Wait {minutes} minutes, then try again."
    return render(request, "accounts/locked_out.html", {"wrong": wrong}, status=429)


@require_POST
def set_unit(request: HttpRequest) -> HttpResponse:
    """Millimetres or inches, for the sizes this person is shown."""
    unit = request.POST.get("unit", "")
    if unit not in UNITS:
        raise BadInput("Sizes are shown in mm or in inches.")
    Member.objects.filter(user=request.user).update(unit=unit)
    back = request.POST.get("back", "/")
    safe = url_has_allowed_host_and_scheme(back, allowed_hosts={request.get_host()})
    return redirect(back if safe else "/")
