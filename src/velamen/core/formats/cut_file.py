"""cut.svg: the outline of every cloth piece at true size, holes included."""

from __future__ import annotations

from itertools import groupby
from xml.sax.saxutils import escape, quoteattr

import numpy as np

from velamen.core.building import Build, BuiltPiece
from velamen.core.geometry.region import boundaries

MARGIN = 8.0  # mm round the outlines, room for the labels
LABEL = 4.0  # mm high
LINE = 0.1  # mm


def cut_svg(build: Build) -> str:
    """The cut file as SVG text: mm units, the job's own coordinates, one group a cloth."""
    pieces = build.cut
    bounds = np.array([built.work.region.bounds for built in pieces] or [[0.0, 0.0, 1.0, 1.0]])
    low = bounds[:, :2].min(axis=0) - MARGIN
    high = bounds[:, 2:].max(axis=0) + MARGIN
    width, height = high - low
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" '
        f'viewBox="{low[0]:.3f} {low[1]:.3f} {width:.3f} {height:.3f}">',
        f"<title>{escape(build.job.name)}: cut file</title>",
    ]
    by_cloth = sorted(pieces, key=lambda built: built.work.cloth.key)
    for key, group in groupby(by_cloth, key=lambda built: built.work.cloth.key):
        cloth = build.library.cloths[key]
        lines.append(
            f'<g id={quoteattr("cloth-" + key)} fill="none" stroke="{cloth.colour}" stroke-width="{LINE}">'
            f"<title>{escape(cloth.name)}</title>"
        )
        lines += [line for built in group for line in _piece(built)]
        lines.append("</g>")
    return "\n".join([*lines, "</svg>", ""])


def path_data(built: BuiltPiece) -> str:
    """SVG path data of a piece's outline, outer ring first, three decimals."""
    parts = []
    for ring in boundaries(built.work.region):
        parts.append("M" + "L".join(f"{x:.3f},{y:.3f}" for x, y in ring.tolist()) + "Z")
    return "".join(parts)


def _piece(built: BuiltPiece) -> list[str]:
    x, _, _, y = built.work.region.bounds
    name = escape(built.piece.name)
    return [
        f'<path id={quoteattr("cut-" + built.piece.id)} fill-rule="evenodd" d="{path_data(built)}"/>',
        f'<text x="{x:.3f}" y="{y + LABEL + 1.0:.3f}" font-size="{LABEL}" font-family="sans-serif" '
        f'fill="#333" stroke="none">{name}</text>',
    ]
