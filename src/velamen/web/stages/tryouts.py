"""Try-outs on Prove: asked for, worked out in the background, compared, one of them kept."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from velamen.core.edits.stack.own_values import with_all_own
from velamen.core.errors import BadInput
from velamen.core.numbers import read_number
from velamen.core.outputs.picture import Box
from velamen.core.variants.tryouts import PIXELS, neighbours
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job
from velamen.web.jobs.try_outs import TryOut
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.plans import build_of
from velamen.web.stages.trying import begun, carry_on, picture_over, variants_of
from velamen.web.work.outside import Asker

FARTHEST, LEAST_SIDE = 2000.0, 1.0  # mm of what pictures are asked over


@require_POST
def begin(request: HttpRequest, job_id: int) -> HttpResponse:
    """Starts a try-out of one or two values of a piece."""
    job = shop_job(request, job_id)
    asked = [(request.POST.get(f"key{nth}", ""), request.POST.get(f"list{nth}", "")) for nth in (1, 2)]
    asked = [(key, text) for key, text in asked if key and text.strip()]
    piece = request.POST.get("piece", "")
    try:
        run = begun(job, job.head.read(), piece, asked)
    except BadInput as error:
        return _page(request, job, piece, wrong=str(error), asked=asked, status=422)
    return redirect("try-out", job.pk, run.token)


@require_GET
def ask(request: HttpRequest, job_id: int) -> HttpResponse:
    """The page on which values to try are chosen, with those beside the value that it was opened from."""
    job, piece, key = shop_job(request, job_id), request.GET.get("piece", ""), request.GET.get("key", "")
    built = build_of(job.head).piece(piece)
    value = built.values.get(key) if built else None
    asked = [(key, neighbours(value.setting, value.value))] if value else []
    return _page(request, job, piece, asked=asked)


@require_GET
def show(request: HttpRequest, job_id: int, token: str) -> HttpResponse:
    """A try-out: how far it is, or its variants side by side."""
    job = shop_job(request, job_id)
    run = _run(job, token)
    carry_on(run, Asker(request.shop.pk, request.user.pk, None))
    context: dict[str, Any] = {
        "run": run, "token": token, "rows": _rows(run) if run.ready else [], "share": run.tried.count(),
        "of": run.count, "close": "close" in request.GET, "box": _shown_box(run, "close" in request.GET),
    }  # fmt: skip
    if request.htmx:
        return render(request, "stages/_tried.html", {"job": job, **context})
    return _page(request, job, run.piece, asked=run.asked, **context)


@require_GET
def picture(request: HttpRequest, job_id: int, token: str, nth: int) -> HttpResponse:
    """The picture of one variant: whole or close, over a box in mm, or large."""
    run, close = _run(shop_job(request, job_id), token), "close" in request.GET
    if not run.ready or not 0 <= nth < run.count:
        raise Http404
    row = run.tried.get(nth=nth)
    if "box" in request.GET:
        return HttpResponse(picture_over(run, nth, _box(request.GET["box"]), PIXELS), content_type="image/png")
    if "large" in request.GET:
        return HttpResponse(picture_over(run, nth, row.close_box if close else row.box), content_type="image/png")
    return HttpResponse(bytes(row.close if close else row.picture), content_type="image/png")


@require_POST
def keep(request: HttpRequest, job_id: int, token: str, nth: int) -> HttpResponse:
    """Sets a variant's values on its piece."""
    job = shop_job(request, job_id)
    run = _run(job, token)
    if not 0 <= nth < run.count:
        raise Http404
    one = variants_of(run)[nth]
    edits.save_edit(request, job, lambda doc: with_all_own(doc, run.piece, one.values), f"Try-out kept: {one.label}")
    return redirect("build", job.pk)


def _box(text: str) -> Box:
    """Left, top, right and bottom in mm, as a page asks for a part of the pictures."""
    try:
        left, top, right, bottom = (read_number(one, FARTHEST) for one in text.split(","))
    except ValueError:
        raise BadInput("The part of the picture cannot be read: reload the page.") from None
    if not (right - left >= LEAST_SIDE and bottom - top >= LEAST_SIDE):
        raise BadInput("The part of the picture is too small to draw: zoom out.")
    return left, top, right, bottom


def _run(job: Job, token: str) -> TryOut:
    found: TryOut = get_object_or_404(TryOut.objects.select_related("revision__base"), job=job, token=token)
    return found


def _rows(run: TryOut) -> list[dict[str, Any]]:
    tried = run.tried.defer("picture", "close")
    built = build_of(run.job.head).piece(run.piece)
    now = {key: value.value for key, value in built.values.items()} if built else {}
    return [{"nth": nth, "label": variant.label, "figures": one.figures,
             "now": all(now.get(key) == value for key, value in variant.values.items())}
            for nth, (variant, one) in enumerate(zip(variants_of(run), tried, strict=True))]  # fmt: skip


def _shown_box(run: TryOut, close: bool) -> str:
    """The box in mm that the pictures show, "" while there are none."""
    row = run.tried.defer("picture", "close").first() if run.ready else None
    return ",".join(f"{one:.3f}" for one in (row.close_box if close else row.box)) if row else ""


def _page(request: HttpRequest, job: Job, piece_id: str, status: int = 200, **more: Any) -> HttpResponse:
    build = build_of(job.head)
    piece = build.piece(piece_id) or (build.pieces[-1] if build.pieces else None)
    settings = (
        [one.setting for one in piece.values.values() if one.setting.kind in ("number", "choice")] if piece else []
    )
    context = stage(request, job, "prove") | {"build": build, "piece": piece, "settings": settings} | more
    return render(request, "stages/tryouts.html", context, status=status)
