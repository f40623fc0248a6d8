"""The people of a shop, for its owners."""

from __future__ import annotations

from django.conf import settings
from django.contrib import messages
from django.core.mail import send_mail
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from velamen.web.accounts import people
from velamen.web.accounts.forms import InviteForm
from velamen.web.accounts.models import Member, Role


@require_GET
def show(request: HttpRequest) -> HttpResponse:
    """Everybody in the shop, and invitations that are open."""
    return _page(request, InviteForm())


@require_POST
@never_cache
def invite(request: HttpRequest) -> HttpResponse:
    """Invites somebody: the link is shown once, and sent where there is an address."""
    form = InviteForm(request.POST)
    if not form.is_valid():
        return _page(request, form, status=422)
    mail = form.cleaned_data["mail"]
    secret = people.invite(request.shop, form.cleaned_data["role"], mail)
    link = request.build_absolute_uri(reverse("join", args=[secret]))
    sent = bool(mail) and _sent(request, mail, link)
    return _page(request, InviteForm(), link=link, sent=mail if sent else "", unsent=bool(mail) and not sent)


@require_POST
def take_back(request: HttpRequest, invitation: int) -> HttpResponse:
    """Takes an invitation back."""
    request.shop.invitations.filter(pk=invitation).delete()
    messages.info(request, "The invitation is taken back: its link opens nothing any more.")
    return redirect("people")


@require_POST
def set_role(request: HttpRequest, member: int) -> HttpResponse:
    """Gives somebody another role."""
    person = _member(request, member)
    people.set_role(person, request.POST.get("role", ""))
    messages.info(request, f"{person.user.username}: {Role(request.POST['role']).label.lower()}.")
    return redirect("people")


@require_POST
def remove(request: HttpRequest, member: int) -> HttpResponse:
    """Removes somebody; what they have done stays."""
    person = _member(request, member)
    people.remove(person)
    messages.info(request, f"{person.user.username} is removed. Their jobs and versions stay.")
    return redirect("people")


def _member(request: HttpRequest, member: int) -> Member:
    found: Member = get_object_or_404(Member.objects.select_related("user"), pk=member, shop=request.shop)
    return found


def _sent(request: HttpRequest, mail: str, link: str) -> bool:
    """Whether a mail with an invitation could be sent."""
    words = render_to_string("accounts/invitation.txt", {"shop": request.shop, "who": request.user, "link": link})
    try:
        return bool(send_mail(f"A place at {request.shop.name}", words, settings.DEFAULT_FROM_EMAIL, [mail]))
    except OSError:  # of the mail server, or of the folder that mail goes to
        return False


def _page(request: HttpRequest, form: InviteForm, status: int = 200, **more: object) -> HttpResponse:
    context = {
        "members": request.shop.members.select_related("user"), "invitations": request.shop.invitations.all(),
        "roles": Role.choices, "form": form, **more,
    }  # fmt: skip
    return render(request, "accounts/people.html", context, status=status)
