"""Needle points of a piece on Build: sent to be chosen from, edited, kept as a motif; a piece turned into them."""

from __future__ import annotations

import msgspec
from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import condition, require_GET, require_POST

from velamen.core.edits.stack import needle_points
from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.outputs.plan_binary import binary
from velamen.web.jobs.access import shop_job
from velamen.web.library import motifs
from velamen.web.stages import edits
from velamen.web.stages.answers import after_edit, panels, refused, saved
from velamen.web.stages.plans import build_of, tag_of
from velamen.web.stages.typed import Typed

LABELS = {
    "move": "Needle points moved", "turn": "Needle points turned", "sideways": "Needle points mirrored",
    "upright": "Needle points mirrored", "duplicate": "Needle points duplicated", "delete": "Needle points deleted",
    "thin": "Needle points thinned out", "insert": "Needle points put in", "cut": "Thread cut",
    "join": "Threads joined",
}  # fmt: skip
PART = "needles"  # of the panels


def _tag(request: HttpRequest, job_id: int, piece: str) -> str:
    return tag_of(shop_job(request, job_id).head)


@require_GET
@condition(etag_func=_tag)
def needle_data(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """The needle points of a piece: laid out as a plan is, with the counts of each thread and pass, and roles."""
    built = build_of(shop_job(request, job_id).head).piece(piece)
    if built is None:
        raise BadInput("That piece is no longer in the job: reload the page.")
    strands = needle_points.points_of_piece(built)
    passes = [sum(len(strand.xy) for strand in each.strands) for each in built.sewn]
    header = {"rows": len(strands.xy), "counts": strands.counts.tolist(), "passes": passes}
    data = binary(msgspec.json.encode(header), strands.xy, strands.role)
    answer = HttpResponse(data, content_type="application/octet-stream")
    answer["Cache-Control"] = "private, no-cache"
    return answer


@require_POST
def edit_needles(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """One edit of the chosen needle points; answers with what is chosen then."""
    job, do = shop_job(request, job_id), request.POST.get("do", "")
    chosen: list[tuple[int, int]] = []

    def edit(document: Document) -> Document:
        after, found = needle_points.edited(document, piece, do, _ranges(request), _numbers(request, do))
        chosen.extend(found)
        return after

    try:
        job = edits.save_edit(request, job, edit, LABELS.get(do, ""))
    except BadInput as error:
        return refused(request, job, piece, PART, error)
    answer = saved(request, job, piece)
    # In the body: what stands between browser and server refuses headers as long as many stretches are.
    answer.write(f'<data id="needles-next" value="{" ".join(f"{first}-{last}" for first, last in chosen)}"></data>')
    return answer


@require_POST
def turn_into_needles(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """A piece becomes its needle points, or lets go of what was changed of them by hand."""
    job = shop_job(request, job_id)
    if request.POST.get("do") == "let_go":
        return after_edit(request, job, piece, PART, lambda doc: needle_points.hand_changes_let_go(doc, piece),
                          "Hand changes let go")  # fmt: skip
    return after_edit(request, job, piece, PART, lambda doc: needle_points.as_needle_points(doc, piece),
                      "Turned into needle points")  # fmt: skip


@require_POST
def keep_points(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Chosen needle points kept as a motif of the shop."""
    job = shop_job(request, job_id)
    built = build_of(job.head).piece(piece)
    try:
        if built is None:
            raise BadInput("That piece is no longer in the job: reload the page.")
        line = needle_points.line_of(built, _ranges(request))
        name = motifs.keep_line(request.shop, line, request.POST.get("name", ""))
    except BadInput as error:
        return refused(request, job, piece, PART, error)
    return panels(request, job, piece, said={"key": PART, "text": f"{name} is a motif of the library now."})


def _numbers(request: HttpRequest, do: str) -> dict[str, float]:
    """What an edit needs of the form, in mm and degrees."""
    typed = Typed(request.POST, request.unit)
    if do in ("move", "duplicate"):
        right, down = typed.shift()
        return {"dx": right, "dy": down}
    if do == "turn":
        return {"degrees": typed.number("degrees")}
    if do == "thin":
        least = typed.length("least", "The shortest stitch")
        if least is None or least <= 0:
            raise BadInput("Type how long the shortest stitch may be to thin out, as 2.5.")
        return {"least": least}
    return {}


def _ranges(request: HttpRequest) -> list[tuple[int, int]]:
    """Chosen points as the page names them, "3-40 52": stretches of them."""
    found = []
    for word in request.POST.get("points", "").split():
        first, _, last = word.partition("-")
        last = last or first
        if not (first.isdecimal() and last.isdecimal() and len(word) < 18):
            raise BadInput("The chosen needle points cannot be read: choose them again.")
        found.append((int(first), int(last)))
    return found
