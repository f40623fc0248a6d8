"""A whole shop: put into the bin by an owner, brought back, and its files taken along."""

from __future__ import annotations

from django.contrib import messages
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from velamen.core.errors import BadInput
from velamen.web.jobs import bin as bin_
from velamen.web.jobs.export import exported


@require_POST
def put_in(request: HttpRequest) -> HttpResponse:
    """Puts the shop into the bin, its name typed to be sure."""
    if request.POST.get("name", "").strip() != request.shop.name:
        raise BadInput(f"Type the name of the shop, {request.shop.name}, to put it into the bin.")
    bin_.put_shop_in(request.shop)
    return redirect("board")


@require_POST
def put_back(request: HttpRequest) -> HttpResponse:
    """Brings the shop back."""
    bin_.put_shop_back(request.shop)
    messages.info(request, f"{request.shop.name} is back.")
    return redirect("board")


@require_GET
def export(request: HttpRequest) -> HttpResponse:
    """All jobs, library rows and files brought in, as a ZIP of open files."""
    name = f"{slugify(request.shop.name)[:60] or 'shop'}.zip"
    return FileResponse(exported(request.shop), as_attachment=True, filename=name, content_type="application/zip")
