"""Prove: proofs and findings, the density map, ties and trims, and the fixes that are taken there."""

from __future__ import annotations

import msgspec
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import condition, require_GET, require_POST

from velamen.core.building.packed import packed
from velamen.core.edits.stack.own_values import with_all_own
from velamen.core.errors import BadInput
from velamen.core.job.document import Job as Document
from velamen.core.job.reading import stored_job, write_job
from velamen.core.outputs.density_picture import density_png
from velamen.core.proofs.density import density_limit, density_map
from velamen.web.jobs.access import shop_job
from velamen.web.stages import edits
from velamen.web.stages.panels import stage
from velamen.web.stages.plans import build_of, tag_of
from velamen.web.stages.prove_context import box_of, proof_context
from velamen.web.work import tasks
from velamen.web.work.outside import outside

PIXELS = 1000  # px of the longer side of what lies under the marks


@require_GET
def prove(request: HttpRequest, job_id: int) -> HttpResponse:
    """Findings and proofs, over one of the pictures they are read from."""
    job = shop_job(request, job_id)
    context = proof_context(job, request.GET.get("show", ""))
    return render(request, "stages/prove.html", stage(request, job, "prove") | context)


def _tag(request: HttpRequest, job_id: int) -> str:
    return tag_of(shop_job(request, job_id).head)


@require_GET
@condition(etag_func=_tag)
def density_image(request: HttpRequest, job_id: int) -> HttpResponse:
    """The density map as a picture."""
    build = build_of(shop_job(request, job_id).head)
    limit = float(density_limit(build.job.brief, build.library).value)
    answer = HttpResponse(density_png(density_map(build.plan.xy[build.plan.sewn]), limit), content_type="image/png")
    answer["Cache-Control"] = "private, no-cache"
    return answer


@require_GET
@condition(etag_func=_tag)
def cloth_image(request: HttpRequest, job_id: int) -> HttpResponse:
    """The job as it is once sewn, under what Prove marks on it."""
    build = build_of(shop_job(request, job_id).head)
    left, top, width, height = box_of(build)
    box = (left, top, left + width, top + height)
    answer = HttpResponse(outside("Drawing the cloth", tasks.build_picture, packed(build), box, PIXELS), "image/png")
    answer["Cache-Control"] = "private, no-cache"
    return answer


@require_GET
def finding_mends(request: HttpRequest, job_id: int) -> HttpResponse:
    """The ways out of one finding, asked for once it is looked at."""
    job = shop_job(request, job_id)
    code, piece = (request.GET.get(key, "") for key in ("code", "piece"))
    labels = outside("Looking for ways out", tasks.mends, packed(build_of(job.head)), code, piece)
    finding = {"code": code, "piece": piece, "mends": labels}
    return render(request, "stages/_mends.html", {"job": job, "finding": finding})


@require_POST
def apply_fix(request: HttpRequest, job_id: int, piece: str) -> HttpResponse:
    """Sets the values that a finding or a proof offers."""
    job = shop_job(request, job_id)
    try:
        values = msgspec.json.decode(request.POST.get("values", ""), type=dict[str, float])
    except (ValueError, RecursionError):
        raise BadInput("That fix cannot be read: reload the page.") from None
    edits.save_edit(request, job, lambda doc: with_all_own(doc, piece, values), "Fix taken")
    return redirect("prove", job.pk)


@require_POST
def mend(request: HttpRequest, job_id: int) -> HttpResponse:
    """Takes the edit that ends a finding, by the finding's code and piece and the edit's words."""
    job = shop_job(request, job_id)
    code, piece, label = (request.POST.get(key, "") for key in ("code", "piece", "label"))

    def mended(document: Document) -> Document:
        return stored_job(outside("Taking the fix", tasks.mend, write_job(document), code, piece, label))

    edits.save_edit(request, job, mended, label[:120] or "Fix taken")
    return redirect("prove", job.pk)
