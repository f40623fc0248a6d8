"""Coming in: a shop begun, an invitation taken."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.utils.decorators import method_decorator
from django.views.generic import FormView

from velamen.core.errors import BadInput
from velamen.web.accounts import people
from velamen.web.accounts.forms import NewPersonForm, SignUpForm
from velamen.web.accounts.sessions import address_of

BACKEND = "django.contrib.auth.backends.ModelBackend"


@method_decorator(login_not_required, name="dispatch")
class SignUpView(FormView):
    """Begins a shop, and signs its owner in."""

    template_name = "accounts/sign_up.html"
    form_class = SignUpForm

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        if not settings.SIGN_UP:
            raise Http404
        if request.user.is_authenticated:
            return redirect("board")
        return super().dispatch(request, *args, **kwargs)

    def form_valid(self, form: SignUpForm) -> HttpResponse:
        person = form.person()
        try:
            people.begin_shop(form.cleaned_data["shop"], person, address_of(self.request))
        except BadInput as error:
            form.add_error(None, str(error))
            return self.form_invalid(form)
        login(self.request, person, BACKEND)
        return redirect("board")


@method_decorator(login_not_required, name="dispatch")
class JoinView(FormView):
    """Takes a place that an invitation holds."""

    template_name = "accounts/join.html"
    form_class = NewPersonForm

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        found = people.invitation_of(kwargs["secret"])
        if found is None:
            return render(request, "accounts/no_invitation.html", status=404)
        self.invitation = found
        if request.user.is_authenticated:
            return render(request, "accounts/no_invitation.html", {"invitation": self.invitation}, status=409)
        return super().dispatch(request, *args, **kwargs)

    def get_initial(self) -> dict[str, Any]:
        return {"email": self.invitation.mail}

    def get_context_data(self, **more: Any) -> dict[str, Any]:
        return super().get_context_data(**more) | {"invitation": self.invitation}

    def form_valid(self, form: NewPersonForm) -> HttpResponse:
        person = form.person()
        try:
            people.join(self.invitation, person)
        except BadInput as error:
            form.add_error(None, str(error))
            return self.form_invalid(form)
        login(self.request, person, BACKEND)
        return redirect("board")
