"""The Hand over stage and its files."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from velamen.core.building.build import Build
from velamen.core.building.needs import needs_of
from velamen.core.building.packed import packed
from velamen.core.edits.stack import copies
from velamen.core.errors import BadInput
from velamen.core.job.document import ORDERS, Repeat
from velamen.core.job.document import Job as Document
from velamen.core.lengths import read_length
from velamen.core.numbers import read_number
from velamen.core.outputs.differences import COMPARED
from velamen.web.handover.sketch import sketch
from velamen.web.jobs import handed
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.handed import HandedOver
from velamen.web.jobs.models import Job
from velamen.web.jobs.needed import needed
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.plans import build_of
from velamen.web.work import kept, tasks
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
    brief, library, hooping = build.job.brief, build.library, build.hooping_figures
    context = stage(request, job, "hand-over") | {
        "build": build,
        "files": _listed() if build.pieces else [],
        "base": library.bases[brief.base],
        "stabilizer": library.stabilizers[brief.stabilizer],
        "topping": library.toppings[brief.topping],
        "hoop": library.hoops[brief.hoop],
        "course": _course(build),
        "hooping": hooping,
        "each": hooping.seconds / (build.grid.copies if build.grid else 1),
        "repeat": build.job.repeat or Repeat(),
        "orders": ORDERS,
        "sketch": sketch(build),
        **needed(build),
        "takes": [needs_of(build, 1), needs_of(build, build.grid.copies)] if build.grid else [],
        "versions": job.handed.prefetch_related("orders__author"),
        "errors": [finding for finding in build.findings if finding.severity == "error"],
        "open": [finding for finding in build.findings if finding.severity == "warning"],
    }
    return render(request, "handover/hand_over.html", context)


@require_POST
def set_copies(request: HttpRequest, job_id: int) -> HttpResponse:
    """Copies in the hoop: as many columns and rows as asked for, or as many as fit."""
    job = shop_job(request, job_id)
    order = request.POST.get("order", "")
    gap = _length(request.POST.get("gap", ""), request.unit, "gap between copies")

    def edit(document: Document) -> Document:
        if request.POST.get("do") == "most":
            return copies.filled(document, gap, order)
        columns, rows = (_count(request.POST.get(name, "")) for name in ("columns", "rows"))
        return copies.with_copies(document, columns, rows, gap, order, bool(request.POST.get("turned")))

    edits.save_edit(request, job, edit, "Copies in the hoop")
    return redirect("hand-over", job.pk)


def _count(text: str) -> int:
    if not text.strip().isdecimal() or len(text.strip()) > 6:
        raise BadInput(f"{text.strip()!r} is no whole number: type how many.")
    return int(text)


def _length(text: str, unit: str, what: str) -> float:
    try:
        return read_length(text, unit)
    except ValueError:
        raise BadInput(f"The {what} {text[:20]!r} is no length: type it as 6 or 0.25 in.") from None


def _times(text: str) -> float:
    try:
        return read_number(text)
    except ValueError:
        raise BadInput(
            f"The fullness {text[:20]!r} is no number: type 1 for none, 1.5 for half as much again."
        ) from None


@require_POST
def set_wanted(request: HttpRequest, job_id: int) -> HttpResponse:
    """How many pieces are to be sewn altogether; back to the page that asked."""
    job = shop_job(request, job_id)
    text, length = (request.POST.get(name, "").strip() for name in ("wanted", "length"))
    if request.POST.get("strip") and length:
        fullness = _times(request.POST.get("fullness", "").strip() or "1")
        long = _length(length, request.unit, "length of the strip")
        edits.save_edit(request, job, lambda document: copies.with_strip(document, long, fullness), "Strip wanted")
    else:
        wanted = _count(text) if text else 0
        edits.save_edit(request, job, lambda document: copies.with_wanted(document, wanted), "Pieces wanted")
    return redirect("prove" if request.POST.get("back") == "prove" else "hand-over", job.pk)


@require_POST
def freeze(request: HttpRequest, job_id: int) -> HttpResponse:
    """Hands a version over: its files stay as they are now. With a version's number, an order that repeats it."""
    job = shop_job(request, job_id)
    note = " ".join(request.POST.get("note", "").split())[:80]
    again = request.POST.get("again", "")
    version = _handed(job, again) if again else _frozen(job)
    version.orders.create(note=note, author=request.user)
    messages.info(request, f"Handed over as version {version.number}. Its files stay as they are.")
    return redirect("hand-over", job.pk)


def _frozen(job: Job) -> HandedOver:
    build = build_of(job.head)
    if not build.pieces:
        raise BadInput("The job has no pieces yet: bring in artwork first.")
    names = [name for name in KINDS if name != "job.json"]
    files = outside(f"Handing over {job.name}", tasks.files, packed(build), names)
    return handed.freeze(
        job.head, {**files, "job.json": job.head.whole}, kept.version(), len(build.hooping.xy[build.hooping.sewn])
    )


@require_GET
def frozen_file(request: HttpRequest, job_id: int, number: int, name: str) -> HttpResponse:
    """One file of a version handed over, as it was."""
    job = shop_job(request, job_id)
    data = handed.file_of(_handed(job, str(number)), name)
    if data is None:
        raise Http404
    return _sent(data, name, f"{slugify(job.name)[:60] or 'job'}-{number}")


@require_GET
def differs(request: HttpRequest, job_id: int, number: int) -> HttpResponse:
    """What the job as it is now differs in from a version handed over."""
    job = shop_job(request, job_id)
    version = _handed(job, str(number))
    before = {name: data for name in COMPARED if (data := handed.file_of(version, name)) is not None}
    found = outside("Comparing with what was handed over", tasks.differing, packed(build_of(job.head)), before)
    return render(request, "handover/_differs.html", {"found": found, "version": version, "job": job})


def _handed(job: Job, number: str) -> HandedOver:
    wanted = int(number) if number.isdecimal() and len(number) < 9 else 0
    found: HandedOver = get_object_or_404(HandedOver, job=job, number=wanted)
    return found


@require_GET
def download(request: HttpRequest, job_id: int, name: str) -> HttpResponse:
    """One file, under a name made of the job's."""
    job = shop_job(request, job_id)
    if name not in KINDS:
        raise Http404
    data = job.head.whole if name == "job.json" else _written(build_of(job.head), name)
    return _sent(data, name, slugify(job.name)[:60] or "job")


def _sent(data: bytes, name: str, stem: str) -> HttpResponse:
    answer = HttpResponse(data, content_type=KINDS[name][2])
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
    plan = build.followed
    before = [{"does": step, "when": "before"} for step in build.before_sewing]
    during: list[tuple[int, dict[str, Any]]] = [
        (load.first, {"thread": build.library.threads[load.thread], "again": load.again, "row": load.first})
        for load in plan.loads
    ]
    during += [(halt.row, {"does": halt.step, "nth": nth, "row": halt.row}) for nth, halt in enumerate(plan.stops, 1)]
    after = [{"does": step, "when": "after"} for step in build.after_sewing]
    return [*before, *(one for _, one in sorted(during, key=lambda pair: pair[0])), *after]
