"""Artwork looked at before it comes in: its colours, what each is sewn as, which parts, how wide."""

from __future__ import annotations

from functools import partial
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views import View

from velamen.core.artwork.svg import Artwork, Drawn
from velamen.core.constructions import constructions
from velamen.core.edits.brief.artwork_file import bring_in_sorted
from velamen.core.edits.shapes.sorting_in import LEFT, Sort, offered, sorts_of, take_sorted
from velamen.core.errors import BadInput
from velamen.core.geometry.region import rings_of
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job
from velamen.web.jobs.pictures import ring_path
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.sources import artwork_of, source_of
from velamen.web.stages.typed import Typed, numbers_of

MANY = 2000  # sorts named in one form


class PartsView(View):
    """Colours and parts of a kept artwork, chosen and brought in."""

    def get(self, request: HttpRequest, job_id: int, key: str) -> HttpResponse:
        return self._show(request, shop_job(request, job_id), key)

    def post(self, request: HttpRequest, job_id: int, key: str) -> HttpResponse:
        job = shop_job(request, job_id)
        artwork = artwork_of(source_of(request.shop, key, "vector"))
        before = edits.seen_document(request, job)
        try:
            width = Typed(request.POST, request.unit).size("width", "Width")
            wanted = set(numbers_of(request.POST.get("parts", "")))
            left = set(range(len(artwork.drawn))) - wanted
            take = partial(take_sorted, artwork=artwork, ways=_ways(request.POST.get("ways", "")), left=left,
                           close_under=request.POST.get("close") == "yes",
                           lines=request.POST.get("lines") == "yes")  # fmt: skip
            fit = request.POST.get("fit") == "yes"
            job = edits.save_edit(
                request,
                job,
                lambda document: bring_in_sorted(document, artwork, take, width, fit),
                "Artwork brought in",
            )
        except BadInput as error:
            return self._show(request, job, key, str(error))
        edits.choose_new(request, before, job)
        return redirect("artwork", job.pk)

    def _show(self, request: HttpRequest, job: Job, key: str, wrong: str = "") -> HttpResponse:
        source = source_of(request.shop, key, "vector")
        artwork = artwork_of(source)
        width, height = artwork.size
        edge = 0.05 * max(width, height)
        box = (-width / 2 - edge, -height / 2 - edge, width + 2 * edge, height + 2 * edge)
        sorts = sorts_of(artwork)
        parts = [_part(nth, part) for nth, part in enumerate(artwork.drawn)]
        context = {
            "source": source, "parts": parts, "notes": artwork.notes, "wrong": wrong, "size": (width, height),
            "box": " ".join(f"{value:.2f}" for value in box),
            "sorts": [_sort(nth, one, artwork, parts) for nth, one in enumerate(sorts)],
            "ways": [(one.name, one.sorted_as.word) for one in offered() if one.sorted_as], "left": LEFT,
            "lines": [ring_path([line.tolist()], False) for _, line in artwork.lines],
        }  # fmt: skip
        status = 422 if wrong else 200
        return render(request, "stages/parts.html", stage(request, job, "artwork") | context, status=status)


def _ways(text: str) -> dict[int, str]:
    """Constructions by number of a sort, "0:run 2:", apart by blanks; those that are none are passed over."""
    found = {}
    for word in text.split()[:MANY]:
        number, colon, way = word.partition(":")
        if number.isdecimal() and len(number) < 7 and colon and (way == LEFT or way in constructions()):
            found[int(number)] = way
    return found


def _sort(nth: int, one: Sort, artwork: Artwork, parts: list[dict[str, Any]]) -> dict[str, Any]:
    """A row of the page: a colour, and what of it is alike."""
    first = artwork.drawn[one.parts[0]].name
    name = f"{len(one.parts)} letters" if one.letters else first if len(one.parts) == 1 else one.layer or first
    return {
        "nth": nth, "colour": one.colour, "name": name, "count": len(one.parts), "area": one.area / 100.0,
        "narrowest": one.narrowest, "way": one.way, "letters": one.letters, "parts": [parts[at] for at in one.parts],
    }  # fmt: skip


def _part(nth: int, part: Drawn) -> dict[str, Any]:
    left, top, right, bottom = part.region.bounds
    return {
        "nth": nth,
        "name": part.name,
        "colour": part.colour,
        "path": ring_path(rings_of(part.region)),
        "size": (right - left, bottom - top),
        "box": f"{left:.2f} {top:.2f} {right:.2f} {bottom:.2f}",
        "holes": len(part.region.interiors),
    }
