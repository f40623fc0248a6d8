"""What each role may do: addresses that take edits are for who digitizes, a shop's people for its owners."""

from __future__ import annotations

from django.http import HttpRequest

from velamen.web.accounts.models import Role

SAFE = ("GET", "HEAD", "OPTIONS")
OWN = frozenset({"sign-out", "set-unit", "under-way", "job-under-way", "account", "end-session", "end-others"})
HANDS_OVER = frozenset({"freeze"})
OWNERS = frozenset({"people", "invite", "take-back", "set-role", "remove-person", "put-shop-in-bin",
                    "shop-back", "export-shop"})  # fmt: skip
LOOKS = "You see this shop's jobs and hand them over; changes are made by its digitizers."
NOT_OWNER = "This is for the owners of the shop."


def forbidden(request: HttpRequest, name: str) -> str:
    """Why a person may not do what an address does; "" where they may."""
    if name in OWNERS:
        return "" if request.role == Role.OWNER else NOT_OWNER
    if request.method in SAFE or request.role != Role.MACHINE or name in OWN | HANDS_OVER:
        return ""
    return LOOKS
