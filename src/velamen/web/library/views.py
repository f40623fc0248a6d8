"""Pages of the library: kinds of material, one row, presets, and the rule table."""

from __future__ import annotations

import re
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views import View
from django.views.decorators.http import require_GET, require_POST

from velamen.core.errors import BadInput
from velamen.core.materials.colour import nearest_threads
from velamen.core.materials.library import Library
from velamen.core.materials.records import KINDS
from velamen.core.outputs.reference import conditions_of, effect_of, group_title, reason_of, subject_of
from velamen.core.values.cautions import cautions
from velamen.core.values.engine import rules
from velamen.web.library import rows
from velamen.web.library.forms import RowForm, shown
from velamen.web.library.models import Preset

FIGURES = {
    "bases": ("pile", "stretch", "pull", "satin_spacing", "underlay"),
    "stabilizers": ("removal", "thickness", "stiffness", "carries"),
    "toppings": ("removal", "thickness"),
    "foams": ("kind", "thickness"),
    "tools": ("width",),
    "cloths": ("like", "print"),
    "threads": ("weight", "finish"),
    "hoops": ("shape", "width", "height"),
    "dies": (),
    "motifs": (),
}
"""What the list of each kind shows beside the name."""


@require_GET
def listing(request: HttpRequest, kind: str = "bases") -> HttpResponse:
    """All rows of one kind; threads by nearness to a colour when one is given."""
    chosen = _kind(kind)
    found = rows.listed(request.shop, chosen)
    library = rows.shop_library(request.shop)
    near = request.GET.get("near", "").lower()
    if kind == "threads" and re.fullmatch("#[0-9a-f]{6}", near):
        by_key = {one["key"]: one for one in found}
        found = [
            by_key[thread.key] | {"far": far}
            for thread, far in nearest_threads(near, library)
        ]  # fmt: skip
    else:
        near = ""
    settings = {one.key: one for one in chosen.settings}
    columns = [settings[key] for key in FIGURES[kind]]
    for one in found:
        one["figures"] = [_figure(setting, one["row"], library) for setting in columns]
    context = {"kinds": KINDS.values(), "kind": chosen, "rows": found, "columns": columns, "near": near}
    return render(request, "library/list.html", context)


class RowView(View):
    """One row: its fields, to be changed, copied or restored."""

    def get(self, request: HttpRequest, kind: str, key: str) -> HttpResponse:
        chosen, fields = self._row(request, kind, key)
        library = rows.shop_library(request.shop)
        copy = "copy" in request.GET
        initial = shown(chosen.settings, fields) | ({"name": f"{fields['name']} copy"} if copy else {})
        return self._show(request, chosen, key, RowForm(chosen.settings, library, initial=initial), copy)

    def post(self, request: HttpRequest, kind: str, key: str) -> HttpResponse:
        chosen, _ = self._row(request, kind, key)
        library = rows.shop_library(request.shop)
        copy = "copy" in request.POST
        form = RowForm(chosen.settings, library, request.POST)
        if form.is_valid():
            fields = form.cleaned_data
            try:
                rows.save_row(
                    request.shop, chosen, rows.free_key(library, chosen, fields["name"]) if copy else key, fields
                )
            except BadInput as error:
                form.add_error(None, str(error))
            else:
                messages.success(request, f"{fields['name']} saved. Jobs take it when their brief is saved next.")
                return redirect("library", kind)
        return self._show(request, chosen, key, form, copy, status=422)

    def _row(self, request: HttpRequest, kind: str, key: str) -> tuple[Any, dict[str, Any]]:
        chosen = _kind(kind)
        library = rows.shop_library(request.shop)
        if key not in library.rows(kind):
            raise Http404
        return chosen, library.fields(kind, key)

    def _show(
        self, request: HttpRequest, kind: Any, key: str, form: RowForm, copy: bool, status: int = 200
    ) -> HttpResponse:
        state = next(one for one in rows.listed(request.shop, kind) if one["key"] == key)
        groups: dict[str, list[Any]] = {}
        for setting in kind.settings:
            groups.setdefault(setting.group, []).append(form[setting.key])
        context = {"kinds": KINDS.values(), "kind": kind, "one": state, "form": form, "groups": groups, "copy": copy}
        return render(request, "library/row.html", context, status=status)


@require_POST
def restore(request: HttpRequest, kind: str, key: str) -> HttpResponse:
    """A changed row as it is shipped; one of the shop's own is removed."""
    rows.restore(request.shop, _kind(kind), key)
    messages.success(request, "The library has it as it is shipped.")
    return redirect("library", kind)


@require_GET
def presets(request: HttpRequest) -> HttpResponse:
    """Presets of the shop."""
    library = rows.shop_library(request.shop)
    found = [
        {"preset": one, "base": library.bases[one.base].name if one.base in library.bases else one.base}
        for one in Preset.objects.filter(shop=request.shop)
    ]  # fmt: skip
    return render(request, "library/presets.html", {"kinds": KINDS.values(), "presets": found})


@require_POST
def remove_preset(request: HttpRequest, preset: int) -> HttpResponse:
    """Removes a preset; pieces keep the values they took from it."""
    get_object_or_404(Preset, pk=preset, shop=request.shop).delete()
    return redirect("presets")


@require_GET
def rule_table(request: HttpRequest) -> HttpResponse:
    """Every rule and caution, in their order of precedence."""
    groups: dict[str, list[dict[str, Any]]] = {}
    for rule in rules().rules:
        groups.setdefault(rule.group, []).append({
            "rule": rule, "subject": subject_of(rule), "when": conditions_of(rule.when),
            "effect": effect_of(rule), "reason": reason_of(rule.reason), "source": _source(rule.source),
        })  # fmt: skip
    tables: list[dict[str, Any]] = [
        {"title": group_title(name), "key": name, "rows": sorted(found, key=lambda row: str(row["subject"]))}
        for name, found in sorted(groups.items(), key=lambda item: item[0] != "common")
    ]
    told = [
        {
            "one": one,
            "when": conditions_of(one.when),
            "message": reason_of(one.message),
            "source": _source(one.source),
        }
        for one in cautions()
    ]
    return render(request, "library/rules.html", {"kinds": KINDS.values(), "tables": tables, "cautions": told})


def _source(text: str) -> str:
    """Where a number comes from, for people at the machine: the trade's start values, or our own."""
    return "trade" if text.startswith("handbook") else text


def _kind(key: str) -> Any:
    if key not in KINDS:
        raise Http404
    return rows.kind_of(key)


def _figure(setting: Any, row: Any, library: Library) -> str:
    value = getattr(row, setting.key)
    if setting.key == "like":
        return library.bases[value].name
    return f"{setting.show(value)} {setting.unit}".strip()
