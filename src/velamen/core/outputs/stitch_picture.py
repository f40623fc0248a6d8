"""Small pictures of constructions, sewn on made-up shapes, and of textures, for the choosers and the gallery."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Point, Polygon

from velamen.core.arrays import Array
from velamen.core.building.build import Build, build_job
from velamen.core.constructions import constructions
from velamen.core.constructions.base import Construction, Family, Sample
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, Piece, brief_for
from velamen.core.job.shape import Shape
from velamen.core.materials.colour import shades
from velamen.core.outputs.laid import sheets_of
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.relief.light import sheen
from velamen.core.setting import Plain

WIDTH, HEIGHT = 24.0, 16.0  # mm shown
THREAD = 0.34  # mm drawn
TONES = 8  # shades by direction
NEAR, TEXTURE = 0.5, 0.75  # of a picture's width that is seen near, and of a texture's
BESIDE, APART = 0.26, 0.22  # mm that threads of one stitch lie beside each other, and that is left at needle points


def stitch_picture(kind: Construction) -> str:
    """An SVG of a construction's stitches, 24 by 16 mm."""
    build = build_job(_job(kind))
    parts = [_begun(NEAR if kind.shown_on is Sample.NEAR else 1.0)]
    for sheet in sheets_of(build):
        area = sheet.states[-1][1]
        rings = [ring for part in shapely.get_parts(area) for ring in rings_of(part)] if area is not None else []
        path = "".join("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in ring) + "Z" for ring in rings)
        parts.append(f'<path d="{path}" fill="{sheet.shown.colour}" opacity="0.45"/>')
    parts += _stitches(build)
    return "\n".join([*parts, "</svg>"]) + "\n"


def texture_picture(stagger: str) -> str:
    """An SVG of rows of a fill with a stagger, seen near enough for its penetrations."""
    box = shapely.box(-WIDTH / 2, -HEIGHT / 2, WIDTH / 2, HEIGHT / 2)
    rows = [kind for kind in constructions().values() if any(one.measure == "stagger" for one in kind.settings)]
    kind = min(rows, key=lambda one: len(one.settings))
    wanted: dict[str, Plain] = {"stagger": stagger, "row_angle": 0.0, "area_underlay": "none"}
    own = {one.key: wanted[one.measure] for one in kind.settings if one.measure in wanted}
    piece = Piece("p1", "piece", "s1", kind.name, "harbour_blue", "140", own)
    build = build_job(Job(brief=brief_for("felt"), shapes=[_shape(box)], pieces=[piece]))
    points = build.plan.xy[build.plan.sewn]
    inside = points[(np.abs(points) < [WIDTH / 2 - 1.0, HEIGHT / 2 - 1.0]).all(axis=1)]
    holes = "".join(f"M{x - 0.1:.1f} {y:.1f}h.1" for x, y in inside.tolist())
    dots = f'<path d="{holes}" stroke="#3c0a07" stroke-width="0.5" stroke-linecap="round" fill="none"/>'
    ground = f'<path d="M-{WIDTH / 2:g} -{HEIGHT / 2:g}h{WIDTH:g}v{HEIGHT:g}h-{WIDTH:g}Z" fill="#a8433b"/>'
    return "\n".join([_begun(TEXTURE), ground, *_stitches(build), dots, "</svg>"]) + "\n"


def _begun(near: float) -> str:
    """The beginning of a picture, of so much of its width and height."""
    wide, high = WIDTH * near, HEIGHT * near
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{-wide / 2:g} {-high / 2:g} {wide:g} {high:g}">'


def gallery_page() -> str:
    """The gallery as Markdown, a picture for every construction."""
    lines = ["# Stitches", "", "Every construction on a shape of 24 by 16 mm, as `./velamen docs` draws it. Their",
             "values and what sets them are in [settings.md](settings.md) and [rules.md](rules.md).", ""]  # fmt: skip
    for kind in sorted(constructions().values(), key=lambda one: (list(Family).index(one.family), one.title)):
        lines += [f"## {kind.title}", "", f"`{kind.name}` · {kind.family.lower()}", "",
                  f'<img src="../src/velamen/web/static/velamen/stitches/{kind.name}.svg" width="360" '
                  f'alt="{kind.title}, sewn">', ""]  # fmt: skip
    return "\n".join(lines)


def _stroke() -> Polygon:
    turn = np.linspace(0.0, 2.0 * np.pi, 60)
    course = np.stack([8.5 * np.cos(turn / 2.0), 4.0 * np.sin(turn)], axis=1)
    return shapely.buffer(shapely.LineString(course), 1.9)


def _ring() -> Polygon:
    return shapely.difference(shapely.buffer(Point(0, 0), 4.6), shapely.buffer(Point(0, 0), 2.0))


def _body() -> Polygon:
    return shapely.union(shapely.box(-8.5, -5, 2, 5), shapely.buffer(Point(3.5, 0), 5.0))


def _blob() -> Polygon:
    turn = np.linspace(0.0, 2.0 * np.pi, 90, endpoint=False)
    circle = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    return Polygon(np.sign(circle) * np.abs(circle) ** 0.7 * [10.5, 6.5])


def _oval() -> Polygon:
    return Polygon(shapely.get_coordinates(shapely.buffer(Point(0, 0), 1.0).exterior) * [9.5, 6.0])


SAMPLES = {Sample.STROKE: _stroke, Sample.RING: _ring, Sample.BODY: _body, Sample.BLOB: _blob, Sample.OVAL: _oval}


def _job(kind: Construction) -> Job:
    if kind.shown_on in (Sample.LINE, Sample.NEAR):
        x = np.linspace(-10.0, 10.0, 40)
        line = [(float(a), float(b)) for a, b in zip(x, 4.0 * np.sin(x / 3.4), strict=True)]
        shape = Shape("s1", "line", [line], open=True)
    else:
        shape = _shape(SAMPLES[kind.shown_on]())
    piece = Piece("p1", "piece", "s1", kind.name, "harbour_blue", "140", dict(kind.shown_with))
    return Job(name=kind.title, brief=brief_for("felt"), shapes=[shape], pieces=[piece])


def _shape(region: Polygon) -> Shape:
    return Shape("s1", "shape", [[(x, y) for x, y in ring] for ring in rings_of(region)])


def _laid(one: Array, two: Array) -> tuple[Array, Array]:
    """Ends of stitches (n, 2) as their threads lie: those of one stitch sewn again beside one another."""
    low, high = np.minimum(one, two), np.maximum(one, two)
    known = np.round(np.concatenate([low, high], axis=1), 2)
    _, place = np.unique(known, axis=0, return_inverse=True)
    order = np.argsort(place.ravel(), kind="stable")
    first = np.concatenate([[True], np.diff(place.ravel()[order]) > 0]) if len(order) else np.zeros(0, dtype=bool)
    nth = np.empty(len(order), dtype=np.int64)
    nth[order] = np.arange(len(order)) - np.maximum.accumulate(np.where(first, np.arange(len(order)), 0))
    times = np.bincount(place.ravel(), minlength=1)[place.ravel()] if len(order) else nth
    way = high - low
    long = np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    aside = np.stack([-way[:, 1], way[:, 0]], axis=1) / long * (BESIDE * (nth - (times - 1) / 2))[:, None]
    drawn_in = np.where((times > 1)[:, None] & (long > 4 * APART), (two - one) / long * APART, 0.0)
    return one + aside + drawn_in, two + aside - drawn_in


def _stitches(build: Build) -> list[str]:
    """Stitches in sewing order, runs of one shade as one path."""
    plan, parts = build.plan, []
    for block in build.plan.blocks:
        rows = np.arange(max(block.first, 1), block.first + block.count)
        rows = rows[(plan.command[rows] == STITCH) & (plan.command[rows - 1] <= 1)]
        one, two = _laid(plan.xy[rows - 1], plan.xy[rows])
        shine = sheen(two - one)
        tone = np.minimum((TONES * shine).astype(np.int64), TONES - 1)
        colours = ["#" + "".join(f"{part:02x}" for part in one)
                   for one in shades(build.library.threads[block.thread].colour, TONES)]  # fmt: skip
        for group in np.split(np.arange(len(rows)), np.flatnonzero(np.diff(tone)) + 1):
            if len(group) == 0:
                continue
            path = "".join(f"M{a:.1f} {b:.1f}L{c:.1f} {d:.1f}" for (a, b), (c, d) in zip(
                one[group].tolist(), two[group].tolist(), strict=True))  # fmt: skip
            parts.append(f'<path d="{path}" stroke="{colours[int(tone[group[0]])]}" stroke-width="{THREAD}" '
                         'stroke-linecap="round" fill="none"/>')  # fmt: skip
    return parts
