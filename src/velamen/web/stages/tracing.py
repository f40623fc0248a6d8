"""The Trace mode of Artwork: a picture's colours and parts, previewed over it before they are taken."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import numpy as np
from django.http import HttpRequest, HttpResponse, StreamingHttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from velamen.core.artwork.tracing.colours import Palette
from velamen.core.artwork.tracing.trace import Traced, TraceSettings
from velamen.core.edits.shapes.import_parts import take_traced
from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.job.shape import Backdrop
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Source
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.sources import picture_of, source_of
from velamen.web.stages.typed import NUMBERS, Typed, numbers_of
from velamen.web.work import tasks
from velamen.web.work.outside import outside, stepwise

START = {"colours": 0.0, "specks": 2.0, "smoothing": 0.1}


@require_GET
def trace_page(request: HttpRequest, job_id: int) -> HttpResponse:
    """The picture behind the shapes, with what tracing it would come to."""
    job = shop_job(request, job_id)
    lies = job.head.read().backdrop
    if lies is None:
        return redirect("artwork", job.pk)
    source = source_of(request.shop, lies.picture, "picture")
    picture = picture_of(source)
    height = lies.width * picture.colours.shape[0] / picture.colours.shape[1]
    fields = [{"setting": NUMBERS[key], "value": NUMBERS[key].show(value)} for key, value in START.items()]
    context = {"source": source, "lies": lies, "height": height, "fields": fields, "notes": picture.notes}
    return render(request, "stages/trace.html", stage(request, job, "artwork") | context)


@require_POST
def trace_preview(request: HttpRequest, job_id: int) -> HttpResponse:
    """What tracing comes to, step by step: a line of JSON for each, the last with the regions."""
    job = shop_job(request, job_id)
    lies = _backdrop(job.head.read())
    source = source_of(request.shop, lies.picture, "picture")
    asked = _asked(request, lies)
    return StreamingHttpResponse(_told(source, asked), content_type="application/x-ndjson")


@require_POST
def take_trace(request: HttpRequest, job_id: int) -> HttpResponse:
    """Takes the traced regions into the job."""
    job = shop_job(request, job_id)
    before = edits.seen_document(request, job)
    lies = _backdrop(before)
    source = source_of(request.shop, lies.picture, "picture")
    traced = outside("Tracing the picture", tasks.traced, picture_of(source), _asked(request, lies))
    if not isinstance(traced, Traced):
        raise BadInput(traced[0])
    skipped = numbers_of(request.POST.get("skipped", ""))
    job = edits.save_edit(
        request, job, lambda document: take_traced(document, traced, lies, skipped), "Picture traced"
    )
    edits.choose_new(request, before, job)
    return redirect("artwork", job.pk)


@require_GET
def source_image(request: HttpRequest, job_id: int, key: str) -> HttpResponse:
    """A picture as the board shows it."""
    shop_job(request, job_id)
    answer = HttpResponse(bytes(source_of(request.shop, key, "picture").shown), content_type="image/webp")
    answer["Cache-Control"] = "private, max-age=86400, immutable"
    return answer


def _backdrop(document: Document) -> Backdrop:
    if document.backdrop is None:
        raise BadInput("There is no picture behind the shapes any more: bring one in.")
    return document.backdrop


def _asked(request: HttpRequest, lies: Backdrop) -> TraceSettings:
    """How the form asks for the picture to be traced; a colour is kept, left out, or made another."""
    asked = Typed(request.POST, request.unit)
    drop, merge = set(), []
    states = request.POST.get("states", "")
    for nth, state in enumerate(states.split(",")[:64] if states else []):
        if state == "out":
            drop.add(nth)
        elif state.isdecimal() and len(state) < 3:
            merge.append((nth, int(state)))
    colours = int(asked.number("colours"))
    return TraceSettings(lies.width, colours, tuple(merge), frozenset(drop) if states else None,
                      asked.number("specks"), asked.number("smoothing"))  # fmt: skip


def _told(source: Source, asked: TraceSettings) -> Iterator[str]:
    """The steps of tracing as lines of JSON."""
    try:
        for share, what, traced in stepwise("Tracing the picture", tasks.traced, picture_of(source), asked):
            if isinstance(traced, tuple):
                why, found = traced
                colours = _colours(found, asked.drop or frozenset())
                yield json.dumps({"share": 1.0, "wrong": why, "colours": colours}) + "\n"
            else:
                yield json.dumps({"share": share, "what": what} | (_result(traced) if traced else {})) + "\n"
    except BadInput as error:
        yield json.dumps({"share": 1.0, "wrong": str(error), "colours": []}) + "\n"


def _result(traced: Traced) -> dict[str, Any]:
    regions = [{"colour": one.colour, "path": _path(one.nodes)} for one in traced.regions]
    return {"regions": regions, "colours": _colours(traced.palette, traced.dropped), "points": traced.points}


def _colours(found: Palette, dropped: frozenset[int]) -> list[dict[str, Any]]:
    return [
        {"colour": name, "share": round(100 * float(share), 1), "out": nth in dropped}
        for nth, (name, share) in enumerate(zip(found.names, found.shares, strict=True))
    ]


def _path(rings: tuple[np.ndarray, ...]) -> str:
    """Curve nodes as the path of an SVG."""
    text = []
    for nodes in rings:
        ahead = np.roll(nodes, -1, axis=0)
        text.append(f"M{nodes[0, 0]:.2f},{nodes[0, 1]:.2f}")
        text.extend(
            f"C{one[4]:.2f},{one[5]:.2f} {other[2]:.2f},{other[3]:.2f} {other[0]:.2f},{other[1]:.2f}"
            for one, other in zip(nodes.tolist(), ahead.tolist(), strict=True)
        )
        text.append("Z")
    return "".join(text)
