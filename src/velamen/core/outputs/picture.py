"""Pictures of a build, of all of it or as it lies at a stop: base, cloths as laid and cut, threads by direction."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np
import shapely
from PIL import Image, ImageChops, ImageDraw

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.geometry.region import Area, boundaries
from velamen.core.materials.colour import shades
from velamen.core.outputs.laid import Ridges, Sheet, pressed_sheets, presses_of, ridges_of, sheets_of
from velamen.core.plan.stitch_plan import JUMP, STITCH
from velamen.core.relief.fluff import SHADES, TUFT, tufts
from velamen.core.relief.light import lit, sheen, veil
from velamen.core.relief.relief import STEP, relief
from velamen.core.relief.surface import TILE, surface_of, texture

Box = tuple[float, float, float, float]

WIDEST = 1400  # px
FINE = 2  # times as many px while drawing, so that threads are smooth
THREAD = 0.38  # mm, a 40-weight thread
TONES = 6  # shades by direction
SIDES = ((1.0, 0.62), (0.72, 1.0), (0.22, 1.14))  # shares of its width, and of its light: sides, body, shine
CLOSE = 9  # px of a thread while drawing, from which it is drawn with its sides
FAINT = 0.42  # of the light on the surface of a base, which is to stay behind what is sewn
UNSEEN, MANY = 0.25, 5_000  # px that an outline may move, from so many points on
MARGIN = 6.0  # mm round what is sewn


def preview_png(build: Build, row: int | None = None, widest: int = WIDEST, box: Box | None = None) -> bytes:
    """A PNG of a build after `row` rows of its plan, all of it where None, over a box in mm."""
    image = picture(build, row, widest, box)
    out = io.BytesIO()
    image.save(out, "PNG", optimize=False)
    return out.getvalue()


def picture(build: Build, row: int | None = None, widest: int = WIDEST, box: Box | None = None) -> Image.Image:
    """The picture itself. What is laid at the stop in hand still lies as it does before the hands."""
    if row is None:
        return Easel(build, widest, box, build.table).at(len(build.plan.xy))
    return Easel(build, widest, box).at(row)


class Easel:
    """Pictures of one build at growing rows, each drawn on from the one before.

    Cutting a cloth changes what lies under stitches already drawn; so what was there before each cloth
    still to be cut was laid is kept, and drawn on from there. table: a colour that all lies on instead of its base.
    """

    def __init__(self, build: Build, widest: int = WIDEST, box: Box | None = None, table: str = "") -> None:
        left, top, right, bottom = box or shown_box(build)
        self.build, self.origin = build, np.array([left, top])
        self.scale = FINE * widest / max(right - left, bottom - top)
        wide, high = (max(round(side * self.scale), 2 * FINE) for side in (right - left, bottom - top))
        self.image = Image.new("RGB", (wide, high), table) if table else _ground(build, (wide, high), self.scale)
        self.relief = _Lit(build, (left, top, right, bottom), FINE / self.scale)
        self.laid: dict[int, list[Sheet]] = {}  # by the rows that are drawn under them
        for sheet in [*sheets_of(build), *pressed_sheets(build, self.relief.presses)]:
            self.laid.setdefault(sheet.laid + 1, []).append(sheet)
        known = [(stop, begins, stop == one.states[-1][0]) for begins, sheets in self.laid.items()
                 for one in sheets for stop, _ in one.states]  # fmt: skip
        self.changes, self.begins, self.lasts = np.array(known, dtype=np.int64).reshape(-1, 3).T
        self.threads = _Threads(build, self.origin, self.scale)
        self.kept = {0: self.image.copy()}
        self.row = 0

    def at(self, row: int) -> Image.Image:
        """The picture after `row` rows of the plan."""
        before, after = sorted((self._done(self.row), self._done(row)))
        changed = (self.changes >= before) & (self.changes < after) & (self.begins < self.row)
        stale = self.begins[changed].tolist()
        if stale or row < self.row:
            self.row = max(begins for begins in self.kept if begins <= min([*stale, row]))
            self.image = self.kept[self.row].copy()
        for begin, end in pairwise(sorted({self.row, *(at for at in self.laid if self.row <= at < row), row})):
            sheets = self.laid.get(begin, [])
            if any(one.rough(self._done(row)) for one in sheets):
                self.kept[begin] = self.image.copy()
            brush = ImageDraw.Draw(self.image)
            for one in sheets:
                self._lay(brush, one, self._done(row))
            self.threads.draw(brush, begin, end)
        self.row = row
        changing = {0, *self.begins[(self.lasts == 1) & (self.changes >= self._done(row))].tolist()}
        self.kept = {at: image for at, image in self.kept.items() if at in changing}
        return self.relief.over(self.image.reduce(FINE), row)

    def _lay(self, brush: ImageDraw.ImageDraw, sheet: Sheet, row: int) -> None:
        """Fills what a sheet lies on after so many rows, with how its surface catches the light."""
        area = sheet.at(row)
        if area is None or area.is_empty:
            return
        if sheet.ridges is not None:
            return self._fluff(brush, sheet.ridges)
        colour = sheet.table if sheet.table and not sheet.rough(row) else sheet.shown.colour
        clear = 0.0 if sheet.table else sheet.shown.clear
        if not clear:
            for part in shapely.get_parts(area):
                _filled(brush, part, colour, self.origin, self.scale)
        if not (sheet.shown.surface or clear):
            return
        box = (np.array(area.bounds).reshape(2, 2) - self.origin) * self.scale
        low = np.maximum(np.floor(box[0]), 0).astype(int)
        high = np.minimum(np.ceil(box[1]) + 1, self.image.size).astype(int)
        if (high <= low).any():
            return
        mask = Image.new("L", tuple((high - low).tolist()))
        for part in shapely.get_parts(area):
            _filled(ImageDraw.Draw(mask), part, 255, self.origin + low / self.scale, self.scale)
        if clear:
            film = Image.new("RGB", mask.size, colour)
            self.image.paste(film, tuple(low.tolist()), mask.point(lambda shade: round(shade * (1.0 - clear))))
        if not sheet.shown.surface:
            return
        veiled = _tiled(sheet.shown.surface, mask.size, self.scale, low.tolist())
        veiled.putalpha(ImageChops.multiply(veiled.getchannel("A"), mask))
        self.image.paste(veiled, tuple(low.tolist()), veiled)

    def _fluff(self, brush: ImageDraw.ImageDraw, ridges: Ridges) -> None:
        """Tufts from the lowest layer up."""
        found = tufts(ridges.spines, ridges.reaches, len(ridges.colours))
        tones = [shades(colour, SHADES) for colour in ridges.colours]
        width = max(round(TUFT * self.scale), 1)
        places = (found.ends.reshape(-1, 2, 2) - self.origin) * self.scale
        for ends, layer, shade in zip(places.reshape(-1, 4).tolist(), found.layer.tolist(), found.shade.tolist(),
                                      strict=True):  # fmt: skip
            brush.line(ends, fill=tones[layer][shade], width=width)

    def _done(self, row: int) -> int:
        """Rows after which hands have done what they do then: at a stop they have not, at the end they have."""
        return row - 1 if row < len(self.build.plan.xy) else row


def shown_box(build: Build) -> Box:
    """Left, top, right and bottom of all that is sewn, with a margin, mm."""
    sewn = build.plan.xy[build.plan.sewn]
    if len(sewn) == 0:
        return -50.0, -50.0, 50.0, 50.0
    (left, top), (right, bottom) = sewn.min(axis=0) - MARGIN, sewn.max(axis=0) + MARGIN
    return float(left), float(top), float(right), float(bottom)


def _filled(brush: ImageDraw.ImageDraw, part: Area, colour: str | int, origin: Array, scale: float) -> None:
    """An area with its holes open. What is finer than a pixel goes."""
    thin = shapely.simplify(part, UNSEEN / scale) if shapely.get_num_coordinates(part) > MANY else part
    outer, *holes = [
        (ring - origin) * scale for ring in boundaries(thin if thin.is_valid and not thin.is_empty else part)
    ]
    if not holes:
        brush.polygon([tuple(point) for point in outer.tolist()], fill=colour)
        return
    low = np.clip(np.floor(outer.min(axis=0)), 0, brush.im.size).astype(int)
    high = np.clip(np.ceil(outer.max(axis=0)) + 1, 0, brush.im.size).astype(int)
    if (high <= low).any():
        return
    mask = Image.new("L", tuple((high - low).tolist()))
    for ring, shade in [(outer, 255), *((hole, 0) for hole in holes)]:
        ImageDraw.Draw(mask).polygon([tuple(point) for point in (ring - low).tolist()], fill=shade)
    brush.bitmap(tuple(low.tolist()), mask, fill=colour)


def _ground(build: Build, size: tuple[int, int], scale: float) -> Image.Image:
    """The bare base: its colour, and how its surface catches the light."""
    base = build.library.bases[build.job.brief.base]
    image = Image.new("RGB", size, base.colour)
    light = _tiled(surface_of(base), size, scale)
    image.paste(light, (0, 0), light)
    return image


def _tiled(surface: str, size: tuple[int, int], scale: float, begin: Sequence[int] = (0, 0)) -> Image.Image:
    """Light on a surface, to be laid over so many px of a picture that begin at a place of it."""
    tile = _tile(surface, max(round(TILE * scale), 1))
    image = Image.new("RGBA", size)
    side = tile.width
    for x in range(-(begin[0] % side), size[0], side):
        for y in range(-(begin[1] % side), size[1], side):
            image.paste(tile, (x, y))
    return image


def surface_png(surface: str) -> bytes:
    """A PNG of light on a tile of a surface, for the browser to lay over a colour."""
    out = io.BytesIO()
    Image.fromarray(veil(FAINT * texture(surface)), "RGBA").save(out, "PNG", optimize=True)
    return out.getvalue()


@lru_cache(maxsize=64)
def _tile(surface: str, side: int) -> Image.Image:
    return Image.fromarray(veil(FAINT * texture(surface)), "RGBA").resize((side, side), Image.Resampling.BOX)


class _Lit:
    """Light on the relief of a build at growing rows, over a box in mm, in cells of a pixel or more."""

    def __init__(self, build: Build, box: Box, pixel: float) -> None:
        self.build, self.box, self.step = build, box, max(pixel, STEP)
        self.laid = build.laid
        self.presses = presses_of(build)
        self.ridges = ridges_of(build)

    def over(self, image: Image.Image, row: int) -> Image.Image:
        """A picture of the box with that light on it."""
        found = relief(self.build.plan, self.laid, self.presses, row, self.box, self.step, self.ridges)
        size = tuple(round(side * found.step / (self.step_of(image))) for side in found.height.shape[::-1])
        light = Image.fromarray(veil(lit(found.seen, found.step)), "RGBA").resize(size, Image.Resampling.BICUBIC)
        image.paste(light, (0, 0), light)
        return image

    def step_of(self, image: Image.Image) -> float:
        """mm of a pixel of the picture."""
        return max(self.box[2] - self.box[0], self.box[3] - self.box[1]) / max(image.size)


class _Threads:
    """Stitches as lines, each in the shade of its direction, ready to be drawn from any row on."""

    def __init__(self, build: Build, origin: Array, scale: float) -> None:
        plan = build.plan
        self.width = max(round(THREAD * scale), 1)
        rows = np.arange(1, len(plan.xy))
        self.rows = rows[(plan.command[1:] == STITCH) & np.isin(plan.command[:-1], (STITCH, JUMP))]
        self.places = ((plan.xy - origin) * scale).astype(np.float32)
        step = self.places[self.rows] - self.places[self.rows - 1]
        tone = np.minimum((TONES * sheen(step)).astype(np.int64), TONES - 1)
        self.shade = TONES * plan.block[self.rows] + tone
        tones = {key: shades(thread.colour, TONES) for key, thread in build.library.threads.items()}
        self.tones = [tone for block in plan.blocks for tone in tones[block.thread]]
        goes_on = (np.diff(self.rows) == 1) & (np.diff(self.shade) == 0)
        self.turns = np.flatnonzero(np.concatenate([[True], ~goes_on])) if len(self.rows) else self.rows

    def draw(self, brush: ImageDraw.ImageDraw, begin: int, end: int) -> None:
        """Draws the stitches that end in some rows of the plan, those of one shade in a row as one line."""
        low, high = np.searchsorted(self.rows, (begin, end)).tolist()
        if low == high:
            return
        if self.width >= CLOSE:
            self._one_by_one(brush, low, high)
            return
        turns = self.turns[slice(*np.searchsorted(self.turns, (low + 1, high)))]
        first = np.concatenate([[low], turns])
        last = np.concatenate([turns, [high]]) - 1
        spans = (self.rows[first] - 1, self.rows[last] + 1, self.shade[first])
        for at, past, shade in zip(*(each.tolist() for each in spans), strict=True):
            brush.line(self.places[at:past], fill=self.tones[shade], width=self.width)  # type: ignore[arg-type]

    def _one_by_one(self, brush: ImageDraw.ImageDraw, low: int, high: int) -> None:
        """Draws stitches large: each with its sides in shade and a shine along its back, those outside left out."""
        ends = np.concatenate([self.places[self.rows[low:high] - 1], self.places[self.rows[low:high]]], axis=1)
        wide, deep = brush.im.size
        x, y = ends[:, ::2], ends[:, 1::2]
        seen = (x.max(axis=1) > -self.width) & (x.min(axis=1) < wide + self.width)
        seen &= (y.max(axis=1) > -self.width) & (y.min(axis=1) < deep + self.width)
        parts = [(max(round(share * self.width), 1), times) for share, times in SIDES]
        for nth in np.flatnonzero(seen).tolist():
            tone = self.tones[self.shade[low + nth]]
            for width, times in parts:
                fill = tuple(min(round(times * part), 255) for part in tone)
                brush.line(ends[nth].tolist(), fill=fill, width=width)
