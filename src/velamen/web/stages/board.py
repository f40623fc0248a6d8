"""What the Artwork stage shows: the shapes of a document, the tools and the picture behind them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from velamen.core.artwork.basic import BASICS
from velamen.core.artwork.typeface import smallest_height
from velamen.core.constructions import colour_of, constructions, usual
from velamen.core.edits.shapes.dies import die_region
from velamen.core.edits.shapes.live_shapes import OUTLINES
from velamen.core.job.document import Job
from velamen.core.job.shape import Shape
from velamen.core.materials.hoops import field
from velamen.core.materials.library import Library
from velamen.web.jobs.pictures import ring_path
from velamen.web.stages.makers import maker_values
from velamen.web.stages.typed import FIELDS

MARGIN = 14  # mm round the field when fitted
LINE_COLOUR = "#23303a"


def art_context(document: Job, shop: Library, chosen: list[str], faces: Mapping[str, str]) -> dict[str, Any]:
    """Shapes in stack order, top first, the field they lie in, and what can be drawn. faces: typefaces, by key."""
    library = document.library
    colours = {piece.shape: colour_of(piece, library) for piece in document.pieces}
    cloths = {piece.shape: piece.cloth for piece in document.pieces}
    shapes = {shape.id: shape for shape in document.shapes}
    order = list(dict.fromkeys([piece.shape for piece in document.pieces if piece.shape] + list(shapes)))
    rows = [_row(shapes[one], colours.get(one, LINE_COLOUR), cloths.get(one, ""), chosen) for one in order]
    hoop = library.hoops[document.brief.hoop]
    ring = field(hoop).exterior.coords[:-1]
    wide, high = hoop.width + 2 * MARGIN, hoop.height + 2 * MARGIN
    boxes = np.array([row["box"] for row in rows]) if rows else np.zeros((0, 4))
    return {
        "rows": rows,
        "rows_top": rows[::-1],
        "any_chosen": any(row["chosen"] for row in rows),
        "fitted": f"{-wide / 2:g} {-high / 2:g} {wide:g} {high:g}",  # as it is fitted first, so that nothing jumps
        "whole": (boxes[:, 2].max() - boxes[:, 0].min(), boxes[:, 3].max() - boxes[:, 1].min()) if rows else None,
        "basics": [_basic(one) for one in BASICS.values()],
        "dies": [_die(die) for die in {**library.dies, **shop.dies}.values()],
        "cloths": {**library.cloths, **shop.cloths}.values(),
        "numbers": FIELDS,
        "outlines": OUTLINES,
        "typefaces": {key: (name, smallest_height(key)) for key, name in faces.items()},
        "sewn_as": [
            (one, one.judges is not None) for one in constructions().values() if one.areas and not one.around
        ],
        "usual": usual("area").name,
        "makers": {maker.id: maker_values(maker) for maker in document.makers},
        "document": document,
        "hoop": hoop,
        "field": "M" + "L".join(f"{x:.2f},{y:.2f}" for x, y in ring) + "Z",
        "base": library.bases[document.brief.base],
    }


def _row(shape: Shape, colour: str, cloth: str, chosen: list[str]) -> dict[str, Any]:
    ring = np.asarray(shape.rings[0])
    return {
        "shape": shape,
        "colour": colour,
        "cloth": cloth,
        "path": ring_path(shape.rings, not shape.open),
        "box": [round(float(value), 3) for value in (*ring.min(axis=0), *ring.max(axis=0))],
        "nodes": "|".join(
            ";".join(" ".join(f"{value:.3f}" for value in node) for node in one) for one in shape.nodes
        ),
        "lines": [(line.kind, ring_path([line.points], False)) for line in shape.lines],
        "holes": len(shape.rings) - 1,
        "group": shape.maker or shape.group,
        "chosen": shape.id in chosen,
    }


def _basic(basic: Any) -> dict[str, Any]:
    fields = [{"setting": one, "value": one.show(basic.start[one.key])} for one in basic.settings]
    return {"basic": basic, "fields": fields, **_thumb(basic.draw({}))}


def _die(die: Any) -> dict[str, Any]:
    region = die_region(die)
    left, top, right, bottom = region.bounds
    return {"die": die, "size": (right - left, bottom - top), **_thumb(region)}


def _thumb(region: Any) -> dict[str, str]:
    left, top, right, bottom = region.bounds
    edge = 0.06 * max(right - left, bottom - top)
    rings = [ring.coords[:-1] for ring in (region.exterior, *region.interiors)]
    return {
        "box": f"{left - edge:.1f} {top - edge:.1f} {right - left + 2 * edge:.1f} {bottom - top + 2 * edge:.1f}",
        "path": ring_path(rings, decimals=1),
    }
