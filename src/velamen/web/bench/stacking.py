"""Edits of the stack on Build: moving, grounds, shared stops, copied values, threads of passes."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from velamen.core import sharing, stacking
from velamen.core.constructions import construction
from velamen.core.errors import BadInput
from velamen.core.job import EVERY, Job, change, take_rows
from velamen.core.materials.library import pick
from velamen.web.bench import edits
from velamen.web.bench.plans import build_of
from velamen.web.bench.routes import place_of
from velamen.web.bench.views import panels
from velamen.web.jobs.views import shop_job
from velamen.web.library.rows import shop_library


@require_POST
def edit_stack(request: HttpRequest, job_id: int) -> HttpResponse:
    """One edit of the stack; answers with the panels as they are then, or why it cannot be."""
    job = shop_job(request, job_id)
    asked = {key: request.POST.get(key, "") for key in ("do", "piece", "unit", "by", "place", "construct", "from")}
    chosen = asked["piece"] or asked["unit"].split(":")[0]
    try:
        before = edits.seen_document(request, job)
        after, label = _edited(before, asked)
        fresh = [one.id for one in after.pieces if one.id not in {old.id for old in before.pieces}]
        job = edits.save_edit(request, job, lambda _: after, label)
    except BadInput as error:
        return panels(request, job, chosen, status=422, wrong={"key": "stack", "why": str(error)})
    return panels(request, job, fresh[0] if fresh else chosen, changed=True)


@require_GET
def stack_saves(request: HttpRequest, job_id: int) -> HttpResponse:
    """What sharing stops would save, asked for once the Stack stands."""
    job = shop_job(request, job_id)
    return render(request, "bench/_saves.html", {"job": job, "saves": sharing.savings(build_of(job.head))})


def _edited(document: Job, asked: dict[str, str]) -> tuple[Job, str]:
    """The document after what was asked, and what to call it."""
    do, piece = asked["do"], asked["piece"]
    ids = [one.id for one in document.sewn]
    if do == "move":
        place = ids.index(piece) + _whole(asked["by"]) if piece in ids and asked["by"] else _whole(asked["place"])
        return stacking.moved_piece(document, piece, place), "Piece moved"
    if do == "move-pass":
        return stacking.moved_unit(document, asked["unit"], _whole(asked["by"])), "Pass moved"
    if do == "ground":
        kind = construction(asked["construct"])
        return stacking.with_ground(document, kind.name, [piece] if piece else [EVERY]), f"{kind.title} added"
    if do == "freeze":
        return stacking.frozen(document, piece), "Ground frozen"
    if do == "cloth":
        return stacking.as_applique(document, piece), "Made appliqué"
    if do == "share":
        return sharing.shared(document), "Stops shared"
    if do == "apart":
        return sharing.taken_apart(document), "Stops taken apart"
    if do == "copy":
        return stacking.with_values_of(document, [piece], asked["from"]), "Values copied"
    raise BadInput("That edit is not known: reload the page.")


def _whole(text: str) -> int:
    try:
        return int(text)
    except ValueError:
        raise BadInput("The place in the stack is not a number: reload the page.") from None


@require_POST
def set_sewing(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Threads of single passes, the cloth a piece decorates, and where its sewing begins and ends."""
    job = shop_job(request, job_id)
    try:
        job = edits.save_edit(request, job, lambda doc: _sewn(doc, piece, request), "Sewing set")
    except BadInput as error:
        return panels(request, job, piece, status=422, wrong={"key": "sewing", "why": str(error)})
    return panels(request, job, piece, changed=True)


def _sewn(document: Job, piece_id: str, request: HttpRequest) -> Job:
    piece = edits.wanted_piece(document, piece_id)
    library = shop_library(request.shop)
    threads: dict[str, str] = {}
    for key, value in request.POST.items():
        if key.startswith("thread-") and value and value != piece.thread:
            pick({**document.library.threads, **library.threads}, value, "thread")
            threads[key.removeprefix("thread-")] = value
    document = take_rows(document, library, {"threads": set(threads.values())})
    on = request.POST.get("on", "")
    if on and edits.piece_of(document, on) is None:
        raise BadInput("That cloth is no longer in the job: reload the page.")
    ends: dict[str, Any] = {key: place_of(request.POST.get(key, ""), key) for key in ("start", "end")}
    return edits.with_piece(document, change(piece, threads=threads, on=on, **ends))
