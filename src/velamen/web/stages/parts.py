"""Artwork looked at before it comes in: which of its parts, how wide."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views import View

from velamen.core.edits.shapes.import_parts import take_parts
from velamen.core.errors import BadInput
from velamen.core.geometry.region import rings_of
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job
from velamen.web.jobs.pictures import ring_path
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.sources import artwork_of, source_of
from velamen.web.stages.typed import Typed, numbers_of


class PartsView(View):
    """Parts of a kept artwork, chosen and brought in."""

    def get(self, request: HttpRequest, job_id: int, key: str) -> HttpResponse:
        return self._show(request, shop_job(request, job_id), key)

    def post(self, request: HttpRequest, job_id: int, key: str) -> HttpResponse:
        job = shop_job(request, job_id)
        artwork = artwork_of(source_of(request.shop, key, "vector"))
        before = edits.seen_document(request, job)
        wanted = set(numbers_of(request.POST.get("parts", "")))
        try:
            width = Typed(request.POST, request.unit).size("width", "Width")
            fit = request.POST.get("fit") == "yes"
            job = edits.save_edit(
                request, job, lambda document: take_parts(document, artwork, wanted, width, fit), "Artwork brought in"
            )
        except BadInput as error:
            return self._show(request, job, key, str(error))
        edits.choose_new(request, before, job)
        return redirect("artwork", job.pk)

    def _show(self, request: HttpRequest, job: Job, key: str, wrong: str = "") -> HttpResponse:
        source = source_of(request.shop, key, "vector")
        artwork = artwork_of(source)
        parts = [_part(nth, part) for nth, part in enumerate(artwork.drawn)]
        width, height = artwork.size
        edge = 0.05 * max(width, height)
        box = (-width / 2 - edge, -height / 2 - edge, width + 2 * edge, height + 2 * edge)
        context = {"source": source, "parts": parts, "notes": artwork.notes, "wrong": wrong, "size": (width, height),
                   "box": " ".join(f"{value:.2f}" for value in box)}  # fmt: skip
        status = 422 if wrong else 200
        return render(request, "stages/parts.html", stage(request, job, "artwork") | context, status=status)


def _part(nth: int, part: Any) -> dict[str, Any]:
    left, top, right, bottom = part.region.bounds
    return {
        "nth": nth,
        "name": part.name,
        "path": ring_path(rings_of(part.region)),
        "size": (right - left, bottom - top),
        "box": f"{left:.2f} {top:.2f} {right:.2f} {bottom:.2f}",
        "holes": len(part.region.interiors),
    }
