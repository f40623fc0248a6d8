"""Icons, numbers and swatches for templates."""

from __future__ import annotations

from collections.abc import Iterable
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from django import template
from django.templatetags.static import static
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe
from shapely import Polygon

from velamen.core.artwork.motif import figure_of
from velamen.core.edits.shapes.dies import die_region
from velamen.core.job.shape import Backdrop
from velamen.core.lengths import show_length
from velamen.core.materials.records import Cloth, Die, Motif, Thread
from velamen.core.plan.figures import clock
from velamen.core.plan.stitch_plan import StitchPlan
from velamen.core.stitching.roles import role_of
from velamen.web.jobs.pictures import ring_path

register = template.Library()
PICTURED = 100  # units that a motif's picture is high
ICONS = Path(__file__).resolve().parents[2] / "static" / "vendor" / "icons"


@cache
def _icon(name: str) -> str:
    text = (ICONS / f"{name}.svg").read_text(encoding="utf-8")
    return text.replace("<svg ", '<svg aria-hidden="true" focusable="false" ', 1)


@register.simple_tag
def icon(name: str) -> SafeString:
    """An icon, hidden from screen readers: its control has a name of its own."""
    return mark_safe(_icon(name))


@register.simple_tag
def stitch_picture(name: str, folder: str = "stitches") -> SafeString:
    """The small picture of a construction, or of a choice in another folder; its control has a name of its own."""
    return format_html(
        '<img src="{}" width="72" height="48" alt="" loading="lazy">', static(f"velamen/{folder}/{name}.svg")
    )


@register.filter
def spaced(number: float) -> str:
    """A count with hard spaces between thousands."""
    return f"{int(number):,}".replace(",", "\u00a0")


@register.filter
def letter(number: int) -> str:
    """The letter that stands for a finding on a picture: A to Z, then AA and so on."""
    text = ""
    while number > 0:
        number, place = divmod(number - 1, 26)
        text = chr(65 + place) + text
    return text


@register.filter
def minutes(seconds: float) -> str:
    """Seconds as minutes and seconds."""
    return clock(seconds)


@register.simple_tag
def swatch(colour: str) -> SafeString:
    """A small field of colour."""
    return format_html(
        '<svg class="swatch" viewBox="0 0 20 14" aria-hidden="true"><rect width="20" height="14" rx="2" '
        'fill="{}"/></svg>',
        colour,
    )


@register.simple_tag
def thread_options(threads: Iterable[Thread], chosen: str) -> SafeString:
    """Threads to choose from, drawn once for as many lists as name them."""
    rows = _options(tuple((one.key, f"{one.key} {one.name}") for one in threads))
    return mark_safe("".join(marked if key == chosen else plain for key, plain, marked in rows))


@lru_cache(maxsize=64)
def _options(rows: tuple[tuple[str, str], ...]) -> tuple[tuple[str, str, str], ...]:
    """Key, option, and option chosen, of every row."""
    text = '<option value="{}"{}>{}</option>'
    return tuple((key, format_html(text, key, "", shown), format_html(text, key, mark_safe(" selected"), shown))
                 for key, shown in rows)  # fmt: skip


@register.simple_tag
def cord(role: str, colour: str) -> SafeString:
    """A pass as a cord, as its role declares: dashed for what holds or shows, full for what covers."""
    looks = role_of(role)
    return format_html(
        '<svg class="cord" viewBox="0 0 34 10" aria-hidden="true">'
        '<line x1="4" y1="5" x2="30" y2="5" stroke="{}" stroke-width="{}" stroke-linecap="{}" '
        'stroke-dasharray="{}"/></svg>',
        colour, 7 if looks.broad else 3, "round" if looks.broad else "butt", looks.dash,
    )  # fmt: skip


@register.simple_tag
def band(colour: str, height: int, kind: str = "cloth") -> SafeString:
    """A material as a band of its true relative thickness."""
    return format_html(
        '<svg class="band band-{}" preserveAspectRatio="none" viewBox="0 0 100 {}" height="{}" '
        'aria-hidden="true"><rect width="100" height="{}" fill="{}"/></svg>',
        kind, height, height, height, colour,
    )  # fmt: skip


@register.simple_tag
def size(width: float, height: float, unit: str) -> str:
    """A width and a height in a person's unit."""
    return f"{show_length(float(width), unit)} × {show_length(float(height), unit)} {unit}"


@register.simple_tag
def region_size(region: Polygon, unit: str) -> str:
    """Width and height of a region in a person's unit."""
    left, top, right, bottom = (0.0,) * 4 if region.is_empty else region.bounds
    return size(right - left, bottom - top, unit)


@register.simple_tag
def die_picture(die: Die) -> SafeString:
    """What a cutting die cuts, small."""
    region = die_region(die)
    left, top, right, bottom = region.bounds
    side = 1.1 * max(right - left, bottom - top)
    rings = [ring.coords[:-1] for ring in (region.exterior, *region.interiors)]
    path = ring_path(rings, decimals=1)
    return format_html(
        '<svg class="die-picture" viewBox="{} {} {} {}" aria-hidden="true"><path d="{}" fill-rule="evenodd"/></svg>',
        f"{-side / 2:.1f}", f"{-side / 2:.1f}", f"{side:.1f}", f"{side:.1f}", path,
    )  # fmt: skip


@register.simple_tag
def motif_picture(motif: Motif) -> SafeString:
    """A motif's one line, small, with a dot where it begins."""
    figure = figure_of(motif)
    points = figure.line * PICTURED
    (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
    side = 1.12 * max(right - left, bottom - top)
    across, down = (left + right - side) / 2, (top + bottom - side) / 2
    path = "M" + "L".join(f"{x:.0f},{y:.0f}" for x, y in points)
    return format_html(
        '<svg class="motif-picture" viewBox="{} {} {} {}" aria-hidden="true"><path d="{}"/></svg>',
        f"{across:.0f}", f"{down:.0f}", f"{side:.0f}", f"{side:.0f}", path,
    )  # fmt: skip


_RECT = '<rect width="4" height="14" x="{}" fill="{{0}}"/>'
_DOT = '<circle cx="{}" cy="{}" r="2" fill="{{0}}"/>'
PRINTS = {
    "stripe": _RECT.format(2) + _RECT.format(10),
    "dot": _DOT.format(5, 4) + _DOT.format(15, 4) + _DOT.format(10, 10),
    "check": '<path d="M4 0v14M14 0v14M0 4h20M0 11h20" stroke="{0}" stroke-width="2"/>',
}


@register.simple_tag
def cloth_swatch(cloth: Cloth) -> SafeString:
    """A small field of a cloth with its print."""
    over = format_html(PRINTS.get(cloth.print, ""), cloth.print_colour) if cloth.print in PRINTS else ""
    return format_html(
        '<svg class="swatch" viewBox="0 0 20 14" aria-hidden="true"><rect width="20" height="14" fill="{}"/>{}</svg>',
        cloth.colour, over,
    )  # fmt: skip


@register.filter
def span(row: dict[str, Any], axis: str) -> float:
    """Width ("x") or height ("y") of a shape's box in mm."""
    left, top, right, bottom = row["box"]
    return round(right - left if axis == "x" else bottom - top, 3)


@register.filter
def left(lies: Backdrop, width: float) -> float:
    """Left edge of a picture whose middle is known, in mm."""
    return round(lies.x - width / 2, 3)


@register.filter
def top(lies: Backdrop, height: float) -> float:
    """Upper edge of a picture whose middle is known, in mm."""
    return round(lies.y - height / 2, 3)


@register.filter
def percent(lies: Backdrop) -> int:
    """How strongly a picture shows, in percent."""
    return round(100 * lies.opacity)


@register.filter
def half(length: float) -> float:
    """Where something of a length begins when its middle is on the origin."""
    return round(-length / 2, 3)


@register.filter
def plain(number: float) -> str:
    """A number without needless decimals."""
    return f"{number:g}"


@register.simple_tag
def length(mm: float, unit: str) -> str:
    """A length in a person's unit, without it."""
    return show_length(float(mm), unit)


@register.simple_tag
def stitches_before(plan: StitchPlan, row: int) -> str:
    """How many stitches are sewn before a row."""
    return spaced(int(np.count_nonzero(plan.sewn[:row])))


@register.filter
def at(items: Any, place: Any) -> object:
    """An item of a list by its place, or of a mapping by its key."""
    return items[place]


@register.filter
def row_name(rows: dict[str, Any], key: str) -> str:
    """Name of a material by key; the key where it is gone."""
    return rows[key].name if key in rows else key


@register.filter
def cut_underscores(text: str) -> str:
    """A key as words."""
    return text.replace("_", " ")
