"""The density map as a picture: one cell a square of pixels, what is denser than the base bears hatched."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from velamen.core.proofs.density import DensityMap

STEPS = ((214, 226, 233), (168, 194, 209), (116, 156, 178), (66, 114, 144), (30, 74, 104))  # woad, light to dark
OVER, HATCH = (179, 57, 47), (110, 24, 18)  # madder, and the lines through it
CELL_PX = 4


def steps_of(limit: float) -> list[tuple[float, str]]:
    """Lower bound in needle points per mm², and colour, of every step up to a limit."""
    bounds = np.linspace(0.0, limit, len(STEPS) + 1)[:-1]
    shown = [f"#{red:02x}{green:02x}{blue:02x}" for red, green, blue in STEPS]
    return list(zip([float(one) for one in bounds], shown, strict=True))


def density_png(found: DensityMap, limit: float) -> bytes:
    """A PNG of a density map, clear where nothing is sewn; CELL_PX pixels a cell."""
    step = np.clip((found.values / limit * len(STEPS)).astype(int), 0, len(STEPS) - 1)
    colours = np.array(STEPS, dtype=np.uint8)[step]
    alpha = np.where(found.values > 0, 235, 0).astype(np.uint8)
    image = np.dstack([colours, alpha]).repeat(CELL_PX, axis=0).repeat(CELL_PX, axis=1)
    over = (found.values > limit).repeat(CELL_PX, axis=0).repeat(CELL_PX, axis=1)
    rows, columns = np.indices(over.shape)
    hatched = (rows + columns) % CELL_PX == 0
    image[over, :3] = np.where(hatched[over, None], HATCH, OVER)
    out = io.BytesIO()
    Image.fromarray(image, "RGBA").save(out, "PNG")
    return out.getvalue()
