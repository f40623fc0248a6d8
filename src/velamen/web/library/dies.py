"""Cutting dies of a shop, kept from shapes of its jobs."""

from __future__ import annotations

import numpy as np

from velamen.core.edits.shapes.choosing import chosen_shapes
from velamen.core.errors import BadInput
from velamen.core.geometry.region import boundaries
from velamen.core.job.document import Job
from velamen.core.job.regions import region_of
from velamen.core.materials.records import DIES
from velamen.web.accounts.models import Shop
from velamen.web.library.rows import free_key, save_row, shop_library

MOST_POINTS = 1500  # of the outlines of a die


def keep(shop: Shop, document: Job, ids: list[str], typed: str) -> str:
    """Keeps a chosen shape as a die, its middle on the origin; its name. Raises BadInput where it is none."""
    name = " ".join(typed.split())[:60]
    shape, *others = chosen_shapes(document, ids)
    if others or shape.open:
        raise BadInput("Choose one closed shape to keep it as a die.")
    if not name:
        raise BadInput("Give the die a name.")
    region = region_of(shape)
    left, top, right, bottom = region.bounds
    middle = np.array([(left + right) / 2, (top + bottom) / 2])
    rings = [ring - middle for ring in boundaries(region)]
    if sum(map(len, rings)) > MOST_POINTS:
        raise BadInput(f"{shape.name} has more points than a die is cut with: simplify it first.")
    path = "".join("M" + "L".join(f"{x:.2f},{y:.2f}" for x, y in ring.tolist()) + "Z" for ring in rings)
    save_row(shop, DIES, free_key(shop_library(shop), DIES, name), {"name": name, "outline": path})
    return name
