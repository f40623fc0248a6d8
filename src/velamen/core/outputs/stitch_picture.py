"""Small pictures of every construction, sewn on a made-up shape, for the chooser and the gallery."""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import Point, Polygon

from velamen.core.building.build import Build, build_job
from velamen.core.constructions import constructions
from velamen.core.constructions.base import Construction
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Job, Piece, brief_for
from velamen.core.job.shape import Shape
from velamen.core.materials.colour import shades
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.setting import Plain

Array = NDArray[np.float64]

WIDTH, HEIGHT = 24.0, 16.0  # mm shown
THREAD = 0.34  # mm drawn
TONES = 8  # shades by direction
LIGHT = 0.3 * np.pi  # direction from which the light falls
OWN: dict[str, dict[str, Plain]] = {  # where the start values are too wide for so small a shape
    "stipple": {"stipple_spacing": 1.4}, "crosshatch": {"crosshatch_spacing": 1.6},
    "cross_stitch": {"cross_size": 1.8}, "contour": {"contour_spacing": 0.9},
    "fill": {"fill_underlay": "none"}, "blend": {"blend_underlay": "none"},
    "applique": {"cover_width": 2.4}, "satin_border": {"border_width": 2.4}, "overedge": {"overedge_width": 3.0},
    "knockdown": {"knockdown_spacing": 1.6, "knockdown_margin": 0.5}, "contrast": {"contrast_width": 2.0},
    "emboss": {"emboss_margin": 2.5, "emboss_spacing": 1.2, "emboss_width": 1.0}, "panel": {"panel_width": 1.6},
    "basting": {"basting_margin": 1.0, "basting_length": 3.0},
    "outline": {"outline_rounds": 2.0, "outline_distance": -1.2},
}  # fmt: skip


def stitch_picture(kind: Construction) -> str:
    """An SVG of a construction's stitches, 24 by 16 mm."""
    build = build_job(_job(kind))
    parts = [f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{-WIDTH / 2} {-HEIGHT / 2} {WIDTH} {HEIGHT}">']
    for cut in build.cut:
        cloth = build.library.cloths[cut.piece.cloth]
        path = "".join(
            "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in ring) + "Z" for ring in rings_of(cut.work.region)
        )
        parts.append(f'<path d="{path}" fill="{cloth.colour}" opacity="0.45"/>')
    parts += _stitches(build)
    return "\n".join([*parts, "</svg>"]) + "\n"


def gallery_page() -> str:
    """The gallery as Markdown, a picture for every construction."""
    lines = ["# Stitches", "", "Every construction on a shape of 24 by 16 mm, as `./velamen docs` draws it. Their",
             "values and what sets them are in [settings.md](settings.md) and [rules.md](rules.md).", ""]  # fmt: skip
    for kind in sorted(constructions().values(), key=lambda one: (one.family, one.title)):
        lines += [f"## {kind.title}", "", f"`{kind.name}` · {kind.family.lower()}", "",
                  f'<img src="../src/velamen/web/static/velamen/stitches/{kind.name}.svg" width="360" '
                  f'alt="{kind.title}, sewn">', ""]  # fmt: skip
    return "\n".join(lines)


def _job(kind: Construction) -> Job:
    region: Polygon | None = None
    if kind.name == "column":
        turn = np.linspace(0.0, 2.0 * np.pi, 60)
        course = np.stack([8.5 * np.cos(turn / 2.0), 4.0 * np.sin(turn)], axis=1)
        region = shapely.buffer(shapely.LineString(course), 1.9)
    elif kind.name == "emboss":
        region = shapely.difference(shapely.buffer(Point(0, 0), 4.6), shapely.buffer(Point(0, 0), 2.0))
    elif kind.family in ("Edges", "Cloth") or kind.name in ("contrast", "knockdown"):
        region = shapely.union(shapely.box(-8.5, -5, 2, 5), shapely.buffer(Point(3.5, 0), 5.0))
    elif not kind.lines:
        turn = np.linspace(0.0, 2.0 * np.pi, 90, endpoint=False)
        round_ = np.stack([np.cos(turn), np.sin(turn)], axis=1)
        region = Polygon(np.sign(round_) * np.abs(round_) ** 0.7 * [10.5, 6.5])
    elif kind.name == "outline":
        region = shapely.buffer(Point(0, 0), 1.0)
        region = Polygon(shapely.get_coordinates(region.exterior) * [9.5, 6.0])
    if region is None:
        x = np.linspace(-10.0, 10.0, 40)
        shape = Shape("s1", "line", [[(float(a), float(b)) for a, b in zip(x, 4.0 * np.sin(x / 3.4), strict=True)]],
                      open=True)  # fmt: skip
    else:
        shape = Shape("s1", "shape", [[(x, y) for x, y in ring] for ring in rings_of(region)])
    piece = Piece("p1", "piece", "s1", kind.name, "harbour_blue", "140", OWN.get(kind.name, {}))
    return Job(name=kind.title, brief=brief_for("felt"), shapes=[shape], pieces=[piece])


def _stitches(build: Build) -> list[str]:
    """Stitches in sewing order, runs of one shade as one path."""
    plan, parts = build.plan, []
    for block in build.plan.blocks:
        rows = np.arange(max(block.first, 1), block.first + block.count)
        rows = rows[(plan.command[rows] == STITCH) & (plan.command[rows - 1] <= 1)]
        one, two = plan.xy[rows - 1], plan.xy[rows]
        turn = np.arctan2(two[:, 1] - one[:, 1], two[:, 0] - one[:, 0])
        shine = np.abs(np.sin(turn - LIGHT))
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
