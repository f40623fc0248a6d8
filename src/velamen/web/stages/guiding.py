"""Guide lines on Build: laid, bent and taken away; where lines would lie while one is bent."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

import numpy as np
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.views.decorators.http import require_GET, require_POST

from velamen.core.arrays import Array
from velamen.core.constructions import construction
from velamen.core.constructions.base import Construction, Work
from velamen.core.edits.stack.guide_lines import check_guide, guide_bent, guide_laid, guide_taken
from velamen.core.edits.stack.makeup import wanted_piece
from velamen.core.edits.stack.own_values import with_own
from velamen.core.errors import BadInput
from velamen.core.job.document import Job
from velamen.core.numbers import read_number, read_whole
from velamen.core.setting import Plain
from velamen.core.values.value import plain_values
from velamen.web.jobs.access import shop_job
from velamen.web.stages.answers import after_edit
from velamen.web.stages.plans import build_of

FAR = 2000.0  # mm


@require_POST
def set_guide(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """One guide line more, one bent, or one less."""
    job, do = shop_job(request, job_id), request.POST.get("do", "")
    edits: dict[str, tuple[Callable[[Job], Job], str]] = {
        "lay": (lambda doc: guide_laid(doc, piece), "Guide line laid"),
        "bend": (lambda doc: guide_bent(doc, piece, _nth(request.POST), _points(request.POST)), "Guide line bent"),
        "take": (lambda doc: guide_taken(doc, piece, _nth(request.POST)), "Guide line taken away"),
    }
    edit, label = edits.get(do, (_unknown, ""))
    return after_edit(request, job, piece, "guides", edit, label)


@require_POST
def set_stops(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """All that can be dragged along the way across a piece, where it was dropped."""

    def dropped(document: Job) -> Job:
        kind = construction(wanted_piece(document, piece).construct)
        for key in kind.strip_keys:
            if key in request.POST:
                document = with_own(document, [piece], key, request.POST[key])
        return document

    return after_edit(request, shop_job(request, job_id), piece, "strip", dropped, "Moved across the rows")


@require_GET
def led(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Lines of a piece as they would lie with one of its guide lines bent so, or with other values."""
    build = build_of(shop_job(request, job_id).head)
    built = build.piece(piece)
    if built is None or built.kind.led is None:
        return JsonResponse({"wrong": "That piece is gone: reload the page."}, status=422)
    try:
        work = _bent(built.work, request.GET) if "points" in request.GET else built.work
        known = {**plain_values(built.values), **_typed(built.kind, request.GET)}
    except BadInput as error:
        return JsonResponse({"wrong": str(error)}, status=422)
    threads = build.library.threads
    lines = [(line.round(2).tolist(), threads[key].colour if key in threads else "")
             for line, key in built.kind.led(work, known)]  # fmt: skip
    return JsonResponse({"lines": [line for line, _ in lines], "colours": [colour for _, colour in lines]})


def _bent(work: Work, data: Mapping[str, str]) -> Work:
    """A piece with one of its guide lines lying otherwise."""
    nth, points, guides = _nth(data), _points(data), list(work.guides)
    check_guide(guides, nth, points, work.region)
    guides[nth] = points
    return replace(work, guides=tuple(guides))


def _typed(kind: Construction, data: Mapping[str, str]) -> dict[str, Plain]:
    """Values that were sent, by key of a setting."""
    settings = {key: kind.setting(key) for key in data}
    return {key: setting.read(data[key]) for key, setting in settings.items() if setting is not None}


def _nth(data: Mapping[str, str]) -> int:
    try:
        return read_whole(data.get("nth", ""))
    except ValueError:
        raise BadInput("That guide line is gone: reload the page.") from None


def _points(data: Mapping[str, str]) -> Array:
    """Places apart by blanks, "x,y" each."""
    words = data.get("points", "").split()[:1000]
    try:
        places = [[read_number(x, FAR), read_number(y, FAR)] for x, y in (one.split(",") for one in words)]
    except ValueError:
        raise BadInput("The guide line cannot be read: bend it again.") from None
    return np.array(places).reshape(-1, 2)


def _unknown(document: Job) -> Job:
    raise BadInput("That edit is not known: reload the page.")
