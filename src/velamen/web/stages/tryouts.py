"""Try-outs on Prove: asked for, worked out in the background, compared, one of them kept."""

from __future__ import annotations

import secrets
from collections import OrderedDict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from velamen.core.building.build import Build
from velamen.core.edits.stack.own_values import with_all_own
from velamen.core.errors import BadInput
from velamen.core.variants.tryouts import PIXELS, Tried, Variant, close_box, common_box, pictured, tried, variants
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.plans import build_of

KEPT = 24  # try-outs that are kept in memory
LARGE = 1200  # px


@dataclass
class Run:
    """One try-out under way or done; kept in memory, since it can be asked for again."""

    shop: int
    job: int
    piece: str
    name: str
    variants: list[Variant]
    asked: list[tuple[str, str]] = field(default_factory=list)
    done: list[tuple[Build, Tried]] = field(default_factory=list)
    pictures: dict[tuple[int, int, bool], bytes] = field(default_factory=dict)
    wrong: str = ""

    @property
    def ready(self) -> bool:
        return len(self.done) == len(self.variants) and len(self.pictures) >= len(self.variants)

    def picture(self, nth: int, pixels: int = PIXELS, close: bool = False) -> bytes:
        """The picture of one variant, over the box that all of them share; kept."""
        known = self.pictures.get((nth, pixels, close))
        if known is None:
            box = common_box([one.box for _, one in self.done])
            box = close_box(self.done[0][0], self.piece, box) if close else box
            known = self.pictures[nth, pixels, close] = pictured(self.done[nth][0], box, pixels)
        return known


_runs: OrderedDict[str, Run] = OrderedDict()
_worker = ThreadPoolExecutor(max_workers=1, thread_name_prefix="try-outs")


@require_POST
def begin(request: HttpRequest, job_id: int) -> HttpResponse:
    """Starts a try-out of one or two values of a piece."""
    job = shop_job(request, job_id)
    asked = [(request.POST.get(f"key{nth}", ""), request.POST.get(f"list{nth}", "")) for nth in (1, 2)]
    asked = [(key, text) for key, text in asked if key and text.strip()]
    piece = request.POST.get("piece", "")
    document = job.head.read()
    try:
        found = variants(document, piece, asked)
    except BadInput as error:
        return _page(request, job, piece, wrong=str(error), asked=asked, status=422)
    name = edits.wanted_piece(document, piece).name
    token = secrets.token_urlsafe(9)
    _runs[token] = Run(request.shop.pk, job.pk, piece, name, found, asked)
    while len(_runs) > KEPT:
        _runs.popitem(last=False)
    _worker.submit(_work, _runs[token])
    return redirect("try-out", job.pk, token)


def _work(run: Run) -> None:
    """Builds every variant, then draws all of them at one scale."""
    try:
        for variant in run.variants:
            run.done.append(tried(variant))
        for nth in range(len(run.done)):
            run.picture(nth)
    except BadInput as error:
        run.wrong = str(error)
    except Exception:
        run.wrong = "The variants could not be worked out. Try other values."
        raise


@require_GET
def ask(request: HttpRequest, job_id: int) -> HttpResponse:
    """The page on which values to try are chosen."""
    return _page(request, shop_job(request, job_id), request.GET.get("piece", ""))


@require_GET
def show(request: HttpRequest, job_id: int, token: str) -> HttpResponse:
    """A try-out: how far it is, or its variants side by side."""
    job = shop_job(request, job_id)
    run = _run(request, job, token)
    context: dict[str, Any] = {
        "run": run, "token": token, "rows": _rows(run), "share": len(run.done), "of": len(run.variants),
        "close": "close" in request.GET,
    }  # fmt: skip
    if request.htmx:
        return render(request, "stages/_tried.html", {"job": job, **context})
    return _page(request, job, run.piece, asked=run.asked, **context)


@require_GET
def picture(request: HttpRequest, job_id: int, token: str, nth: int) -> HttpResponse:
    """The picture of one variant, large when asked so."""
    run = _run(request, shop_job(request, job_id), token)
    if not run.ready or not 0 <= nth < len(run.done):
        raise Http404
    pixels = LARGE if "large" in request.GET else PIXELS
    return HttpResponse(run.picture(nth, pixels, "close" in request.GET), content_type="image/png")


@require_POST
def keep(request: HttpRequest, job_id: int, token: str, nth: int) -> HttpResponse:
    """Sets a variant's values on its piece."""
    job = shop_job(request, job_id)
    run = _run(request, job, token)
    if not 0 <= nth < len(run.variants):
        raise Http404
    one = run.variants[nth]
    edits.save_edit(request, job, lambda doc: with_all_own(doc, run.piece, one.values), f"Try-out kept: {one.label}")
    return redirect("build", job.pk)


def _run(request: HttpRequest, job: Job, token: str) -> Run:
    run = _runs.get(token)
    if run is None or run.shop != request.shop.pk or run.job != job.pk:
        raise Http404
    return run


def _rows(run: Run) -> list[dict[str, Any]]:
    if not run.ready:
        return []
    return [{"nth": nth, "label": variant.label, "one": one, "figures": one.figures}
            for nth, (variant, (_, one)) in enumerate(zip(run.variants, run.done, strict=True))]  # fmt: skip


def _page(request: HttpRequest, job: Job, piece_id: str, status: int = 200, **more: Any) -> HttpResponse:
    build = build_of(job.head)
    piece = build.piece(piece_id) or (build.pieces[-1] if build.pieces else None)
    settings = (
        [one.setting for one in piece.values.values() if one.setting.kind in ("number", "choice")] if piece else []
    )
    context = stage(request, job, "prove") | {"build": build, "piece": piece, "settings": settings} | more
    return render(request, "stages/tryouts.html", context, status=status)
