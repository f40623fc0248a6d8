"""Density: needle points per square millimetre all over a plan, against what the base bears."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import label, maximum_filter, uniform_filter

from velamen.core.job.document import Brief
from velamen.core.materials.library import Library
from velamen.core.plan.stitch_plan import StitchPlan
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Setting
from velamen.core.values.engine import match
from velamen.core.values.traits import brief_traits
from velamen.core.values.value import Value

CELL = 0.5  # mm
WINDOW = 5  # cells on a side, over which points are counted
LEAST = 8.0  # mm² over the limit that are worth telling
STIFF = 150.0  # mm² over the limit, from which the whole turns stiff; ours
MOST_PLACES_TOLD = 12  # places told
APART = 8.0  # mm between places in the list of the densest

SETTINGS = (
    Setting("density_limit", "Densest", "Brief", "Needle points per square millimetre that the base bears.", unit="",
            low=0.5, high=12.0),
)  # fmt: skip


@dataclass(frozen=True)
class DensityMap:
    """Needle points per mm² in square cells.

    values: (rows, columns); left, top: mm of the first cell's corner; cell: mm on a side.
    """

    values: NDArray[np.float64]
    left: float
    top: float
    cell: float = CELL


def density_map(points: NDArray[np.float64]) -> DensityMap:
    """The density of needle points (n, 2), each counted in a square of 2.5 mm round it."""
    if len(points) == 0:
        return DensityMap(np.zeros((1, 1)), 0.0, 0.0)
    low = np.floor(points.min(axis=0) / CELL) - WINDOW
    at = np.floor(points / CELL - low).astype(np.int64)
    columns, rows = at.max(axis=0) + WINDOW + 1
    counts = np.bincount(at[:, 1] * columns + at[:, 0], minlength=rows * columns).reshape(rows, columns)
    summed = uniform_filter(counts.astype(np.float64), WINDOW, mode="constant")
    values = np.round(summed * WINDOW**2) / (WINDOW * CELL) ** 2  # its running sums leave dust behind
    return DensityMap(values, float(low[0] * CELL), float(low[1] * CELL))


@dataclass(frozen=True)
class Dense:
    """A dense place, mm, its needle points per mm², and the blocks that sew there, each with its share of them."""

    x: float
    y: float
    value: float
    sewn: tuple[tuple[int, float], ...]


def densest(plan: StitchPlan, count: int = 6) -> list[Dense]:
    """The densest places of a plan, `APART` mm or more from one another, densest first."""
    points, block = plan.xy[plan.sewn], plan.block[plan.sewn]
    if len(points) == 0:
        return []
    found = density_map(points)
    peaks = (found.values == maximum_filter(found.values, int(2 * APART / CELL) + 1)) & (found.values > 0)
    rows, columns = np.nonzero(peaks)
    values = found.values[rows, columns]
    order = np.argsort(-values, kind="stable")
    middle = np.stack([found.left + (columns + 0.5) * CELL, found.top + (rows + 0.5) * CELL], axis=1)[order]
    places: list[Dense] = []
    for (x, y), value in zip(middle.tolist(), values[order].tolist(), strict=True):
        if len(places) == count:
            break
        if all(np.hypot(x - one.x, y - one.y) >= APART for one in places):
            near = (np.abs(points - (x, y)) <= WINDOW * CELL / 2).all(axis=1)
            here, many = np.unique(block[near], return_counts=True)
            shares = sorted(zip(here.tolist(), (many / many.sum()).tolist(), strict=True), key=lambda one: -one[1])
            places.append(Dense(round(x, 2), round(y, 2), round(value, 2), tuple(shares)))
    return places


@lru_cache(maxsize=32)
def density_limit(brief: Brief, library: Library) -> Value:
    """What a base bears, with its reasons."""
    return match(SETTINGS, brief_traits(brief, library), {}, lambda known, setting: {})["density_limit"]


def density_findings(points: NDArray[np.float64], brief: Brief, library: Library) -> list[Finding]:
    """Places denser than the base bears, and a warning where they are so many that it turns stiff."""
    limit = float(density_limit(brief, library).value)
    found = density_map(points)
    over, count = label(found.values > limit)
    if count == 0:
        return []
    sizes = np.bincount(over.ravel())[1:] * CELL**2
    spots: list[tuple[float, float]] = []
    for nth in (np.argsort(-sizes) + 1).tolist():
        if sizes[nth - 1] < LEAST or len(spots) == MOST_PLACES_TOLD:
            break
        rows, columns = np.nonzero(over == nth)
        peak = int(np.argmax(found.values[rows, columns]))
        spots.append((round(found.left + (float(columns[peak]) + 0.5) * CELL, 2),
                      round(found.top + (float(rows[peak]) + 0.5) * CELL, 2)))  # fmt: skip
    if not spots:
        return []
    area, most = float(sizes[sizes >= LEAST].sum()), float(found.values.max())
    base = library.bases[brief.base]
    name = base.name.lower() if base.thickness else "the stabilizer alone"
    message = (f"{area:.0f} mm² are sewn denser than the {limit:g} needle points per mm² that {name} bears, "
               f"up to {most:.1f}: ")  # fmt: skip
    stiff = area >= STIFF
    message += "it turns stiff like a board. Open a spacing or take stitches away underneath." if stiff else (
        "needles may break there. Open a spacing, or keep pieces apart.")  # fmt: skip
    return [Finding("density_stiff" if stiff else "density_high", "warning", "", message, tuple(spots))]
