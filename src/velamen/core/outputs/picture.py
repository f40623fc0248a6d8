"""Pictures of a build, of all of it or as it lies at a stop: base, cloths as laid and cut, threads by direction."""

from __future__ import annotations

import io
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from velamen.core.building.build import Build, BuiltPiece
from velamen.core.constructions.applique import LAY_MARGIN
from velamen.core.geometry.region import Area, boundaries
from velamen.core.materials.colour import shades
from velamen.core.plan.stitch_plan import JUMP, STITCH

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
    return Easel(build, widest, box).at(len(build.plan.xy) if row is None else row)


class Easel:
    """Pictures of one build at growing rows, each drawn on from the one before.

    Cutting a cloth changes what lies under stitches already drawn; so what was there before each cloth
    still to be cut was laid is kept, and drawn on from there.
    """

    def __init__(self, build: Build, widest: int = WIDEST, box: Box | None = None) -> None:
        left, top, right, bottom = box or shown_box(build)
        self.build, self.origin = build, np.array([left, top])
        self.scale = FINE * widest / max(right - left, bottom - top)
        wide, high = (max(round(side * self.scale), 2 * FINE) for side in (right - left, bottom - top))
        self.image = Image.new("RGB", (wide, high), build.library.bases[build.job.brief.base].colour)
        rows = {(stop.step.kind, piece): stop.row for stop in build.plan.stops for piece in stop.step.pieces}
        # cloths by the row from which they lie, each with the row of its cut
        self.laid: dict[int, list[tuple[BuiltPiece, int]]] = {}
        for built in build.cut:
            begins = rows.get(("lay", built.piece.id), -1) + 1
            self.laid.setdefault(begins, []).append((built, rows.get(("trim", built.piece.id), -1)))
        self.kept = {0: self.image.copy()}
        self.row = 0

    def at(self, row: int) -> Image.Image:
        """The picture after `row` rows of the plan."""
        stale = [begins for begins, cloths in self.laid.items() if begins <= self.row and any(
            self._cut(trim, row) != self._cut(trim, self.row) for _, trim in cloths)]  # fmt: skip
        if stale or row < self.row:
            self.row = max(begins for begins in self.kept if begins <= min([*stale, row]))
            self.image = self.kept[self.row].copy()
        for begin, end in pairwise(sorted({self.row, *(at for at in self.laid if self.row <= at < row), row})):
            cloths = self.laid.get(begin, [])
            if any(not self._cut(trim, row) for _, trim in cloths):
                self.kept[begin] = self.image.copy()
            brush = ImageDraw.Draw(self.image)
            for built, trim in cloths:
                self._cloth(brush, built, self._cut(trim, row))
            _threads(brush, self.build, begin, end, self.origin, self.scale)
        self.row = row
        uncut = [at for at, cloths in self.laid.items() if any(not self._cut(trim, row) for _, trim in cloths)]
        self.kept = {at: image for at, image in self.kept.items() if at in (0, *uncut)}
        size = (max(self.image.width // FINE, 2), max(self.image.height // FINE, 2))
        return self.image.resize(size, Image.Resampling.LANCZOS)

    def _cut(self, trim: int, row: int) -> bool:
        """Whether a cloth cut at a row of the plan is so after `row` rows, its hand step done."""
        return row >= len(self.build.plan.xy) or trim < row - 1

    def _cloth(self, brush: ImageDraw.ImageDraw, built: BuiltPiece, cut: bool) -> None:
        """A cloth as it lies: cut to its outline, or a rough piece of it."""
        area: Area = built.outline
        if not cut:
            area = shapely.box(*(np.array(area.bounds) + np.array([-1, -1, 1, 1]) * LAY_MARGIN))
        colour = self.build.library.cloths[built.piece.cloth].colour
        for part in shapely.get_parts(area):
            _filled(brush, part, colour, self.origin, self.scale)


def shown_box(build: Build) -> Box:
    """Left, top, right and bottom of all that is sewn, with a margin, mm."""
    sewn = build.plan.xy[build.plan.sewn]
    if len(sewn) == 0:
        return -50.0, -50.0, 50.0, 50.0
    (left, top), (right, bottom) = sewn.min(axis=0) - MARGIN, sewn.max(axis=0) + MARGIN
    return float(left), float(top), float(right), float(bottom)


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
