"""Pictures of a build, of all of it or as it lies at a stop: base, cloths as laid and cut, threads by direction."""

from __future__ import annotations

import io

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from velamen.core.building import Build, BuiltPiece
from velamen.core.constructions import construction
from velamen.core.constructions.applique import LAY_MARGIN
from velamen.core.geometry.region import Area, boundaries
from velamen.core.materials.colour import shades
from velamen.core.sequencing.plan import JUMP, STITCH

Array = NDArray[np.float64]
Box = tuple[float, float, float, float]

WIDEST = 1400  # px
FINE = 2  # times as many px while drawing, so that threads are smooth
THREAD = 0.38  # mm, a 40-weight thread
TONES = 6  # shades by direction
LIGHT = 0.3 * np.pi
MARGIN = 6.0  # mm round what is sewn


def preview_png(build: Build, row: int | None = None, widest: int = WIDEST, box: Box | None = None) -> bytes:
    """A PNG of a build after `row` rows of its plan, all of it where None, over a box in mm."""
    image = picture(build, row, widest, box)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=False)
    return out.getvalue()


def picture(build: Build, row: int | None = None, widest: int = WIDEST, box: Box | None = None) -> Image.Image:
    """The picture itself. What is laid at the stop in hand still lies as it does before the hands."""
    left, top, right, bottom = box or shown_box(build)
    scale = FINE * widest / max(right - left, bottom - top)
    size = (max(round((right - left) * scale), 8), max(round((bottom - top) * scale), 8))
    image = Image.new("RGB", size, build.library.bases[build.job.brief.base].colour)
    brush = ImageDraw.Draw(image, "RGBA")
    plan = build.plan
    end = len(plan.xy) if row is None else row
    edges = [0, *sorted({at for at in (*_cloth_rows(build), end) if at <= end})]
    origin = np.array([left, top])
    for begin, upto in zip(edges, [*edges[1:], end], strict=True):
        for built in build.cut:
            _cloth(brush, built, build, begin, end, origin, scale)
        _threads(brush, build, begin, upto, origin, scale)
    return image.resize((max(size[0] // FINE, 4), max(size[1] // FINE, 4)), Image.Resampling.LANCZOS)


def shown_box(build: Build) -> Box:
    """Left, top, right and bottom of all that is sewn, with a margin, mm."""
    sewn = build.plan.xy[build.plan.sewn]
    if len(sewn) == 0:
        return -50.0, -50.0, 50.0, 50.0
    (left, top), (right, bottom) = sewn.min(axis=0) - MARGIN, sewn.max(axis=0) + MARGIN
    return float(left), float(top), float(right), float(bottom)


def _cloth_rows(build: Build) -> list[int]:
    return [stop.row + 1 for stop in build.plan.stops if stop.step.kind == "lay"]


def _cloth(
    brush: ImageDraw.ImageDraw, built: BuiltPiece, build: Build, begin: int, end: int, origin: Array, scale: float
) -> None:
    """A cloth drawn once, at the row from which it lies: cut to its outline where that is done by the end."""
    rows = {stop.step.kind: stop.row for stop in build.plan.stops if built.piece.id in stop.step.pieces}
    if not construction(built.piece.construct).lays or rows.get("lay", -2) + 1 != begin:
        return
    done = end >= len(build.plan.xy) or rows.get("trim", -1) < end - 1
    colour = build.library.cloths[built.piece.cloth].colour
    area: Area = built.outline
    if not done:
        bounds = area.bounds
        area = shapely.box(*(np.array(bounds) + np.array([-1, -1, 1, 1]) * LAY_MARGIN))
    for part in shapely.get_parts(area):
        _filled(brush, part, colour, origin, scale)


def _filled(brush: ImageDraw.ImageDraw, part: Area, colour: str, origin: Array, scale: float) -> None:
    """An area with its holes open: holes are joined to the outer ring by slits."""
    outer, *holes = boundaries(part)
    ring = np.concatenate([outer, outer[:1]])
    for hole in holes:
        ring = np.concatenate([ring, hole, hole[:1], ring[:1]])
    brush.polygon([tuple(point) for point in ((ring - origin) * scale).tolist()], fill=colour)


def _threads(brush: ImageDraw.ImageDraw, build: Build, begin: int, end: int, origin: Array, scale: float) -> None:
    """Stitches that end in some rows, each in the shade of its direction."""
    plan = build.plan
    width = max(round(THREAD * scale), 1)
    places = (plan.xy - origin) * scale
    for block in plan.blocks:
        rows = np.arange(max(block.first, begin, 1), min(block.first + block.count, end))
        rows = rows[(plan.command[rows] == STITCH) & np.isin(plan.command[rows - 1], (STITCH, JUMP))]
        if len(rows) == 0:
            continue
        step = plan.xy[rows] - plan.xy[rows - 1]
        shine = np.abs(np.sin(np.arctan2(step[:, 1], step[:, 0]) - LIGHT))
        tones = shades(build.library.threads[block.thread].colour, TONES)
        ends = np.concatenate([places[rows - 1], places[rows]], axis=1).tolist()
        for line, tone in zip(ends, np.minimum((TONES * shine).astype(np.int64), TONES - 1).tolist(), strict=True):
            brush.line(line, fill=tones[tone], width=width)
