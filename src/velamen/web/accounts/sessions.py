"""Sessions in the database, each with its person, so that they can be listed and ended."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import SESSION_KEY
from django.contrib.auth.signals import user_logged_in
from django.contrib.sessions.backends.db import SessionStore as DatabaseStore
from django.dispatch import receiver
from django.http import HttpRequest
from django.utils import timezone

from velamen.web.accounts.models import Session

AGENT, ADDRESS, SEEN = "agent", "address", "seen"
SYSTEMS = (("Android", "Android"), ("iPhone", "iPhone"), ("iPad", "iPad"), ("Windows", "Windows"),
           ("Mac OS", "Mac"), ("Linux", "Linux"))  # fmt: skip
BROWSERS = (("Edg/", "Edge"), ("Firefox", "Firefox"), ("Chrome", "Chrome"), ("Safari", "Safari"))


class SessionStore(DatabaseStore):
    """Puts beside a session whose it is and where it was begun."""

    @classmethod
    def get_model_class(cls) -> type[Session]:
        return Session

    def create_model_instance(self, data: dict[str, Any]) -> Session:
        made: Session = super().create_model_instance(data)
        person = data.get(SESSION_KEY)
        made.user_id = int(person) if person else None
        made.agent, made.address = data.get(AGENT, ""), data.get(ADDRESS, "")
        return made


@receiver(user_logged_in)
def where_begun(sender: Any, request: HttpRequest, user: Any, **more: Any) -> None:
    """Keeps with a session the browser and the address it was begun from."""
    request.session[SEEN] = timezone.now().timestamp()
    request.session[AGENT] = browser_of(request.headers.get("User-Agent", ""))
    request.session[ADDRESS] = address_of(request)[:45]


def address_of(request: HttpRequest) -> str:
    """The address that a request comes from, as the front tells it."""
    return str(request.META.get("HTTP_X_REAL_IP") or request.META.get("REMOTE_ADDR", ""))


def browser_of(agent: str) -> str:
    """A browser and system in words.

    >>> browser_of("Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 Chrome/140.0 Safari/537.36")
    'Chrome on Linux'
    """
    browser = next((name for mark, name in BROWSERS if mark in agent), "A browser")
    system = next((name for mark, name in SYSTEMS if mark in agent), "")
    return f"{browser} on {system}" if system else browser
