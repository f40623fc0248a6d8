"""A sketch of the hooping: the sewing field and every copy in it."""

from __future__ import annotations

from typing import Any

import numpy as np
import shapely

from velamen.core.building.build import Build
from velamen.core.geometry.region import boundaries
from velamen.core.materials.hoops import field
from velamen.web.jobs.pictures import ring_path

CALM, EDGE, LETTER = 0.3, 3.0, 0.12  # mm of detail left off; mm round it; of the field's width


def sketch(build: Build) -> dict[str, Any] | None:
    """The sewing field with the outlines of all copies, numbered in the order they are sewn, as SVG paths in mm."""
    if build.grid is None:
        return None
    within = field(build.library.hoops[build.job.brief.hoop])
    whole = shapely.union_all([one.outline for one in build.pieces if not one.outline.is_empty])
    whole = shapely.simplify(whole, CALM)
    left, top, right, bottom = within.bounds
    middle = shapely.box(*whole.bounds).centroid
    turn = build.grid.matrix
    letters = (np.array([middle.x, middle.y]) @ turn + build.grid.moves()).round(1).tolist()
    (a, b), (c, d) = turn.tolist()
    found = [{"matrix": f"{a:g} {b:g} {c:g} {d:g} {move[0]:.2f} {move[1]:.2f}", "x": x, "y": y}
             for move, (x, y) in zip(build.grid.moves().tolist(), letters, strict=True)]  # fmt: skip
    wide, high = right - left + 2 * EDGE, bottom - top + 2 * EDGE
    return {"box": f"{left - EDGE:.0f} {top - EDGE:.0f} {wide:.0f} {high:.0f}",
            "field": ring_path(boundaries(within)), "design": ring_path(boundaries(whole)), "copies": found,
            "letter": round(LETTER * (right - left), 1)}  # fmt: skip
