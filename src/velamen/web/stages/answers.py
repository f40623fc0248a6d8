"""Answers to edits made on Build: the edit saved, or the panels with why it could not be."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.web.jobs.models import Job
from velamen.web.stages import edits
from velamen.web.stages.chosen import beside
from velamen.web.stages.panels import piece_context, stage

PARTS_OF = {
    "sewing": "sewing",
    "preset": "presets",
    "makeup": "stitches",
    "recipe": "add",
    "places": "places",
    "guides": "guides",
    "needles": "needles",
}
"""The part of the panels that stands open to tell of something, by what it is about."""


def after_edit(
    request: HttpRequest, job: Job, piece: str, part: str, edit: Callable[[Document], Document], label: str
) -> HttpResponse:
    """Saves an edit of a piece; the panels and why not, told in that part of them, where it cannot be."""
    try:
        job = edits.save_edit(request, job, edit, label)
    except BadInput as error:
        return refused(request, job, piece, part, error)
    return saved(request, job, piece)


def refused(
    request: HttpRequest, job: Job, piece: str, part: str, why: BadInput, text: str | None = None
) -> HttpResponse:
    """The panels with why an edit could not be, told in one part of them. text: what was typed there."""
    return panels(request, job, piece, status=422, wrong={"key": part, "text": text, "why": str(why)})


def panels(
    request: HttpRequest,
    job: Job,
    piece: str | None,
    wrong: Any = None,
    said: Any = None,
    status: int = 200,
) -> HttpResponse:
    """Values of a piece, with the Stack beside them, after an edit, one that could not be, or another choice.

    wrong, said: what is told, and under which key it belongs.
    """
    context = (
        stage(request, job, "build")
        | piece_context(request, job, piece, beside(request))
        | {"wrong": wrong, "said": said, "partial": True}
    )
    told = PARTS_OF.get((wrong or said or {}).get("key", ""))
    context["opened"] += [told] if told and told not in context["opened"] else []
    return render(request, "stages/_panels.html", context, status=status)


def saved(request: HttpRequest, job: Job, piece: str, alone: bool = False) -> HttpResponse:
    """The answer to an edit: its revision alone.

    The page then asks for the plan first, so that nothing keeps the picture waiting, and for the panels beside it.
    piece: to be chosen then; alone: with none beside it.
    """
    answer = render(request, "stages/_saved.html", stage(request, job, "build") | {"partial": True})
    answer["HX-Reswap"] = "none"
    answer["X-Edited"] = json.dumps({"piece": piece, "alone": alone})
    return answer
