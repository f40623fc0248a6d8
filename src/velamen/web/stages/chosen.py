"""Pieces chosen together on Build: the one whose values are shown, and those beside it that edits reach too."""

from __future__ import annotations

from django.http import HttpRequest

MOST_CHOSEN = 500


def beside(request: HttpRequest) -> list[str]:
    """Ids of the pieces chosen beside the leading one, as the page sends them with everything."""
    sent = request.POST if request.method == "POST" else request.GET
    return [one for one in sent.get("also", "").split(",") if one][:MOST_CHOSEN]


def together(request: HttpRequest, piece: str) -> list[str]:
    """Ids of all chosen pieces, the leading one first."""
    return list(dict.fromkeys([piece, *beside(request)]))
