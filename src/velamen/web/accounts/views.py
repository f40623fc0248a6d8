"""What a person sets for themselves."""

from __future__ import annotations

import hashlib
from typing import Any

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.http import url_has_allowed_host_and_scheme
from django.views import View
from django.views.decorators.http import require_POST

from velamen.core.errors import BadInput
from velamen.core.lengths import UNITS
from velamen.web.accounts import people
from velamen.web.accounts.forms import MailForm, PasswordForm
from velamen.web.accounts.models import Member, Session


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


class AccountView(View):
    """A person's own mail address, password and sessions."""

    def get(self, request: HttpRequest) -> HttpResponse:
        return self._page(request)

    def post(self, request: HttpRequest) -> HttpResponse:
        """Takes a new password, or a new mail address; a new password ends all other sessions."""
        if "new_password1" in request.POST:
            password = PasswordForm(request.user, request.POST)
            if not password.is_valid():
                return self._page(request, password=password, status=422)
            update_session_auth_hash(request, password.save())
            ended = people.end_sessions(request.user, but=request.session.session_key)
            messages.info(request, f"The password is changed; {ended} other session{'s' * (ended != 1)} ended.")
            return redirect("account")
        mail = MailForm(request.POST, instance=request.user)
        if not mail.is_valid():
            return self._page(request, mail=mail, status=422)
        mail.save()
        messages.info(request, "The mail address is changed.")
        return redirect("account")

    def _page(self, request: HttpRequest, status: int = 200, **forms: Any) -> HttpResponse:
        context = {
            "password": PasswordForm(request.user), "mail": MailForm(instance=request.user),
            "sessions": [
                {"session": one, "name": _short(one.session_key), "here": one.pk == request.session.session_key}
                for one in Session.objects.filter(user=request.user)
            ],
            **forms,
        }  # fmt: skip
        return render(request, "accounts/account.html", context, status=status)


@require_POST
def end_session(request: HttpRequest) -> HttpResponse:
    """Ends one session of the person's own."""
    nth = request.POST.get("session", "")
    keys = {_short(one.session_key): one.session_key for one in Session.objects.filter(user=request.user)}
    if nth in keys:
        people.end_sessions(request.user, only=keys[nth])
        messages.info(request, "That session is ended.")
    return redirect("account")


@require_POST
def end_others(request: HttpRequest) -> HttpResponse:
    """Ends all sessions but this one."""
    people.end_sessions(request.user, but=request.session.session_key)
    messages.info(request, "All other sessions are ended.")
    return redirect("account")


def _short(key: str) -> str:
    """A name for a session that opens nothing, as its key would."""
    return hashlib.sha256(key.encode()).hexdigest()[:16]
