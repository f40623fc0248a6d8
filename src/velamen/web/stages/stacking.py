"""Edits of the stack on Build: moving, grounds, cloth, shared stops, copied values, threads of passes."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET, require_POST

from velamen.core.building.job_materials import take_rows
from velamen.core.constructions import construction, sewn_pieces
from velamen.core.edits.stack import apart, grounds, makeup, shared_stops
from velamen.core.edits.stack import pieces as stack_pieces
from velamen.core.edits.stack.thread_routes import place_of
from velamen.core.edits.stack.turned import turned_into
from velamen.core.errors import BadInput
from velamen.core.job.document import EVERY, Job, change, check_brief
from velamen.core.materials.library import pick
from velamen.core.numbers import read_number
from velamen.web.accounts.models import Shop
from velamen.web.jobs.access import shop_job
from velamen.web.library import recipes
from velamen.web.library.rows import shop_library
from velamen.web.stages import edits
from velamen.web.stages.answers import after_edit, panels, refused, saved
from velamen.web.stages.chosen import together
from velamen.web.stages.plans import build_of

ASKED = ("do", "piece", "unit", "by", "onto", "place", "construct", "round", "from")

UNDER_LETTERS = {
    "lay-name": (grounds.with_name_piece, "Name piece put under"),
    "lay-panel": (grounds.with_panel, "Panel put under"),
}


@require_POST
def edit_stack(request: HttpRequest, job_id: int) -> HttpResponse:
    """One edit of the stack; answers with the panels as they are then, or why it cannot be."""
    job = shop_job(request, job_id)
    asked = {key: request.POST.get(key, "") for key in ASKED}
    chosen = asked["piece"] or asked["unit"].split(":")[0]
    try:
        before = edits.seen_document(request, job)
        after, label = _edited(before, asked, together(request, chosen), request.shop)
        fresh = [one.id for one in after.pieces if one.id not in {old.id for old in before.pieces}]
        job = edits.save_edit(request, job, lambda _: after, label)
    except BadInput as error:
        return refused(request, job, chosen, "stack", error)
    return saved(request, job, fresh[0] if fresh else chosen, alone=bool(fresh))


@require_POST
def keep_recipe(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Keeps how the job is built round its design as a recipe of the shop."""
    job = shop_job(request, job_id)
    try:
        recipe = recipes.keep(request.shop, job.head.read(), request.POST.get("name", ""))
    except BadInput as error:
        return refused(request, job, piece, "recipe", error)
    return panels(request, job, piece, said={"key": "recipe", "text": f"Kept as {recipe.name}, for any other job."})


@require_GET
def stack_saves(request: HttpRequest, job_id: int) -> HttpResponse:
    """What sharing stops would save, asked for once the Stack stands."""
    job = shop_job(request, job_id)
    return render(request, "stages/_saves.html", {"job": job, "saves": shared_stops.savings(build_of(job.head))})


def _edited(document: Job, asked: dict[str, str], ids: list[str], shop: Shop) -> tuple[Job, str]:
    """The document after what was asked of the chosen pieces, the leading one first, and what to call it."""
    do = asked["do"]
    if do in ("move", "move-pass"):
        return _moved(document, asked)
    if do in ("ground", "lay-sheer", *UNDER_LETTERS):
        return _with_ground(document, asked, ids if asked["round"] == "chosen" else [])
    if do == "course":
        return change(
            document, brief=check_brief(change(document.brief, course=asked["by"]), document.library)
        ), "Order of sewing changed"
    if do == "recipe":
        recipe = recipes.wanted(shop, asked["by"])
        chosen = ids if asked["round"] == "chosen" else []
        return recipes.put_round(document, recipe, shop_library(shop), chosen), f"{recipe.name} put round it"
    if do == "share":
        return shared_stops.shared(document), "Stops shared"
    if do == "apart":
        return shared_stops.taken_apart(document), "Stops taken apart"
    if do == "turn":
        kind = construction(asked["construct"])
        return turned_into(document, asked["piece"], kind.name), f"Made {kind.title.lower()}"
    if do == "remove":
        return stack_pieces.removed(document, ids), "Piece removed" if len(ids) == 1 else f"{len(ids)} pieces removed"
    if do == "copy":
        return stack_pieces.with_values_of(document, ids, asked["from"]), "Values copied"
    each = {
        "freeze": (grounds.frozen, "Outline frozen"),
        "cloth": (stack_pieces.as_cloth, "Made cloth"),
        "under": (grounds.with_cloth_under, "Cloth put under"),
        "bare": (grounds.without_cloth_under, "Cloth under it removed"),
        "let-go": (stack_pieces.let_go, "Let go of its die"),
        "plain": (apart.taken_apart, "Taken apart"),
    }
    if do not in each:
        raise BadInput("That edit is not known: reload the page.")
    edit, label = each[do]
    return edit(document, asked["piece"]), label


def _moved(document: Job, asked: dict[str, str]) -> tuple[Job, str]:
    """The document with a piece or a pass sewn elsewhere."""
    if asked["do"] == "move-pass":
        by = 0 if asked["onto"] else _whole(asked["by"])
        return stack_pieces.moved_operation(document, asked["unit"], by, asked["onto"]), "Pass moved"
    ids, piece = [one.id for one in sewn_pieces(document)], asked["piece"]
    place = ids.index(piece) + _whole(asked["by"]) if piece in ids and asked["by"] else _whole(asked["place"])
    return stack_pieces.moved_piece(document, piece, place), "Piece moved"


def _with_ground(document: Job, asked: dict[str, str], ids: list[str]) -> tuple[Job, str]:
    """The document with something round the chosen pieces, or round all where none are given."""
    chosen = [one for one in document.pieces if one.shape and (not ids or one.id in ids)]
    if asked["do"] in UNDER_LETTERS:
        edit, label = UNDER_LETTERS[asked["do"]]
        return edit(document, [one.shape for one in chosen]), label
    if asked["do"] == "lay-sheer":
        return grounds.with_sheer_over(document, [one.id for one in chosen]), "Sheer cloth laid over"
    kind = construction(asked["construct"])
    if kind.around is not None and kind.around.motif:
        return grounds.as_motif(document, kind.name, ids), f"{kind.title} made"
    return grounds.with_ground(document, kind.name, ids or [EVERY]), f"{kind.title} added"


def _whole(text: str) -> int:
    try:
        return int(read_number(text, 1e6))
    except ValueError:
        raise BadInput("The place in the stack is not a number: reload the page.") from None


@require_POST
def set_sewing(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Threads of single passes, the cloth a piece decorates, and where its sewing begins and ends."""
    job, ids = shop_job(request, job_id), together(request, piece)
    return after_edit(
        request, job, piece, "sewing", lambda doc: _sewn(doc, ids, request), "Threads, start and end changed"
    )


def _sewn(document: Job, ids: list[str], request: HttpRequest) -> Job:
    """The document with the sewing of a piece set; of several only the cloth they decorate."""
    on = request.POST.get("on", "")
    if on and makeup.piece_of(document, on) is None:
        raise BadInput("That cloth is no longer in the job: reload the page.")
    if len(ids) > 1:
        for one in ids:
            document = makeup.with_piece(document, change(makeup.wanted_piece(document, one), on=on))
        return document
    piece = makeup.wanted_piece(document, ids[0])
    library = shop_library(request.shop)
    threads: dict[str, str] = {}
    for key, value in request.POST.items():
        if key.startswith("thread-") and value and value != piece.thread:
            pick({**document.library.threads, **library.threads}, value, "thread")
            threads[key.removeprefix("thread-")] = value
    document = take_rows(document, library, {"threads": set(threads.values())})
    ends: dict[str, Any] = {key: place_of(request.POST.get(key, ""), key) for key in ("start", "end")}
    return makeup.with_piece(document, change(piece, threads=threads, on=on, **ends))
