"""Small pictures of every construction, sewn on a made-up shape, for the chooser and the gallery."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Point, Polygon

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

WIDTH, HEIGHT = 24.0, 16.0  # mm shown
THREAD = 0.34  # mm drawn
TONES = 8  # shades by direction


def stitch_picture(kind: Construction) -> str:
    """An SVG of a construction's stitches, 24 by 16 mm."""
    build = build_job(_job(kind))
    parts = [f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{-WIDTH / 2} {-HEIGHT / 2} {WIDTH} {HEIGHT}">']
    for sheet in sheets_of(build):
        area = sheet.states[-1][1]
        rings = [ring for part in shapely.get_parts(area) for ring in rings_of(part)] if area is not None else []
        path = "".join("M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in ring) + "Z" for ring in rings)
        parts.append(f'<path d="{path}" fill="{sheet.shown.colour}" opacity="0.45"/>')
    parts += _stitches(build)
    return "\n".join([*parts, "</svg>"]) + "\n"


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
    if kind.shown_on is Sample.LINE:
        x = np.linspace(-10.0, 10.0, 40)
        line = [(float(a), float(b)) for a, b in zip(x, 4.0 * np.sin(x / 3.4), strict=True)]
        shape = Shape("s1", "line", [line], open=True)
    else:
        rings = rings_of(SAMPLES[kind.shown_on]())
        shape = Shape("s1", "shape", [[(x, y) for x, y in ring] for ring in rings])
    piece = Piece("p1", "piece", "s1", kind.name, "harbour_blue", "140", dict(kind.shown_with))
    return Job(name=kind.title, brief=brief_for("felt"), shapes=[shape], pieces=[piece])


def _stitches(build: Build) -> list[str]:
    """Stitches in sewing order, runs of one shade as one path."""
    plan, parts = build.plan, []
    for block in build.plan.blocks:
        rows = np.arange(max(block.first, 1), block.first + block.count)
        rows = rows[(plan.command[rows] == STITCH) & (plan.command[rows - 1] <= 1)]
        one, two = plan.xy[rows - 1], plan.xy[rows]
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
