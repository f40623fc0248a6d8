"""The bin: jobs put away, for as long as they can be put back."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from velamen.web.jobs import bin as bin_
from velamen.web.jobs.access import shop_job
from velamen.web.jobs.models import Job


@require_GET
def show(request: HttpRequest) -> HttpResponse:
    """Jobs in the bin, with how long they stay."""
    bin_.empty_bins()
    jobs = Job.objects.filter(shop=request.shop).exclude(binned=None).order_by("-binned").defer("thumb")
    rows = [{"job": job, "until": job.binned + bin_.DAYS_IN_BIN} for job in jobs]
    return render(request, "jobs/bin.html", {"rows": rows, "days": bin_.DAYS_IN_BIN.days})


@require_POST
def put_in(request: HttpRequest, job_id: int) -> HttpResponse:
    """Puts a job into the bin."""
    job = shop_job(request, job_id)
    bin_.put_in(job)
    messages.info(request, f"{job.name} is in the bin, for {bin_.DAYS_IN_BIN.days} days.")
    return redirect("board")


@require_POST
def put_back(request: HttpRequest, job_id: int) -> HttpResponse:
    """Puts a job back on the board."""
    job = _binned(request, job_id)
    bin_.put_back(job)
    messages.info(request, f"{job.name} is back on the board.")
    return redirect("board")


@require_POST
def delete(request: HttpRequest, job_id: int) -> HttpResponse:
    """Deletes a job in the bin for good."""
    job = _binned(request, job_id)
    bin_.delete(Job.objects.filter(pk=job.pk))
    messages.info(request, f"{job.name} is deleted.")
    return redirect("bin")


def _binned(request: HttpRequest, job_id: int) -> Job:
    found: Job = get_object_or_404(Job, pk=job_id, shop=request.shop, binned__isnull=False)
    return found
