"""The Hand over stage and its files."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.text import slugify
from django.views.decorators.http import require_GET

from velamen.core.building.build import Build
from velamen.core.building.packed import packed
from velamen.core.errors import BadInput
from velamen.core.job.reading import write_job
from velamen.web.jobs.access import shop_job
from velamen.web.stages.panels import stage
from velamen.web.stages.plans import build_of
from velamen.web.work import tasks
from velamen.web.work.outside import outside

KINDS = {
    "stitches.csv": ("Stitch file", "every needle point, jump, trim and stop", "text/csv"),
    "runsheet.pdf": ("Run sheet", "set-up, threads, and a picture for every stop", "application/pdf"),
    "cut.svg": ("Cut file", "the outline of every cloth piece at true size", "image/svg+xml"),
    "cut.dxf": ("Cut file, DXF", "the same with a layer for each cloth", "image/vnd.dxf"),
    "stitches.gcode": ("G-code", "the stitch file for motion controllers, ISO 6983", "text/plain"),
    "preview.png": ("Picture", "the finished design", "image/png"),
    "report.json": ("Report", "figures, values with reasons, findings and proofs", "application/json"),
    "job.json": ("Job", "the editable job, to keep beside the stitch file", "application/json"),
}


@require_GET
def hand_over(request: HttpRequest, job_id: int) -> HttpResponse:
    """Files, figures and what the person at the machine does at every stop."""
    job = shop_job(request, job_id)
    build = build_of(job.head)
    brief, library = build.job.brief, build.library
    context = stage(request, job, "hand-over") | {
        "build": build,
        "files": _listed() if build.pieces else [],
        "base": library.bases[brief.base],
        "stabilizer": library.stabilizers[brief.stabilizer],
        "topping": library.toppings[brief.topping],
        "hoop": library.hoops[brief.hoop],
        "course": _course(build),
        "errors": [finding for finding in build.findings if finding.severity == "error"],
        "open": [finding for finding in build.findings if finding.severity == "warning"],
    }
    return render(request, "handover/hand_over.html", context)


@require_GET
def download(request: HttpRequest, job_id: int, name: str) -> HttpResponse:
    """One file, under a name made of the job's."""
    job = shop_job(request, job_id)
    if name not in KINDS:
        raise Http404
    data = write_job(job.head.read()) if name == "job.json" else _written(build_of(job.head), name)
    answer = HttpResponse(data, content_type=KINDS[name][2])
    stem = slugify(job.name)[:60] or "job"
    answer["Content-Disposition"] = f'attachment; filename="{stem}-{name}"'
    return answer


def _written(build: Build, name: str) -> bytes:
    if not build.pieces and not build.lost:
        raise BadInput("The job has no pieces yet: bring in artwork first.")
    return outside(f"Writing {KINDS[name][0].lower()}", tasks.file, packed(build), name)


def _listed() -> list[dict[str, Any]]:
    return [{"name": name, "title": title, "about": about} for name, (title, about, _) in KINDS.items()]


def _course(build: Build) -> list[dict[str, Any]]:
    """What the person at the machine does, in order: what is laid first, threads taken up, stops, what comes off."""
    plan = build.plan
    before = [{"does": step, "when": "before"} for step in build.before_sewing]
    during: list[tuple[int, dict[str, Any]]] = [
        (load.first, {"thread": build.library.threads[load.thread], "again": load.again, "row": load.first})
        for load in plan.loads
    ]
    during += [(halt.row, {"does": halt.step, "nth": nth, "row": halt.row}) for nth, halt in enumerate(plan.stops, 1)]
    after = [{"does": step, "when": "after"} for step in build.after_sewing]
    return [*before, *(one for _, one in sorted(during, key=lambda pair: pair[0])), *after]
