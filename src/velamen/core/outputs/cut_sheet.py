"""What a cutter cuts: outlines by cloth, mirrored where cut from the back, and where their labels stand."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.geometry.region import Area, boundaries

MARGIN = 8.0  # mm round the outlines, room for the labels
LABEL = 4.0  # mm high
LETTER = 0.6  # of its height, the width of a letter on average
CLEAR = 1.0  # mm between a label and any cut


@dataclass(frozen=True)
class Cut:
    """One outline to cut. rings: (n, 2) each, mm, outer first; label: its words and where they begin."""

    piece: str
    name: str
    cloth: str
    mirrored: bool
    rings: tuple[Array, ...]
    label: str
    at: tuple[float, float]
    copy: int = 0  # in the hoop


def cuts_of(build: Build) -> list[Cut]:
    """All outlines of a build, cloth by cloth, in the job's own coordinates, those of copies where they are sewn.

    A piece that is cut from the back, for fusible web, is mirrored about its own middle. A label
    stands beside its outline where no outline is in its way, else below all of them.
    """
    pieces = [(built, one.cut) for built in build.pieces for one in built.operations if one.cut]
    copies = 1 if build.grid is None else build.grid.copies
    pieces = sorted(pieces, key=lambda one: one[1].material)
    seen = [_mirrored(cut.region) if cut.mirrored else cut.region for _, cut in pieces]
    areas = [each for area in seen for each in (build.grid.laid(area) if build.grid else [area])]
    pieces = [one for one in pieces for _ in range(copies)]
    taken: list[Area] = []
    edges = shapely.boundary(np.array(areas, dtype=object))
    foot = max((area.bounds[3] for area in areas), default=0.0) + 2 * LABEL
    left = min((area.bounds[0] for area in areas), default=0.0)
    found = []
    for nth, ((built, cut), area) in enumerate(zip(pieces, areas, strict=True)):
        label = built.piece.name + (" (mirrored)" if cut.mirrored else "")
        box = _free(area, label, edges, taken)
        if box is None:
            box = shapely.box(left, foot - LABEL, left + len(label) * LABEL * LETTER, foot)
            foot += 1.5 * LABEL
        taken.append(box)
        rings = tuple(boundaries(area))
        found.append(Cut(built.piece.id, built.piece.name, cut.material, cut.mirrored, rings, label,
                         (float(box.bounds[0]), float(box.bounds[3])), nth % copies))  # fmt: skip
    return found


def sheet_box(cuts: Sequence[Cut]) -> tuple[float, float, float, float]:
    """Left, top, right and bottom of all outlines and labels, with a margin, mm."""
    points = [ring for cut in cuts for ring in cut.rings]
    points += [np.array([cut.at, (cut.at[0] + len(cut.label) * LABEL * LETTER, cut.at[1])]) for cut in cuts]
    every = np.concatenate(points) if points else np.array([[0.0, 0.0], [1.0, 1.0]])
    (left, top), (right, bottom) = every.min(axis=0) - MARGIN, every.max(axis=0) + MARGIN
    return float(left), float(top), float(right), float(bottom)


def _mirrored(area: Area) -> Area:
    """An area as it is seen from the back."""
    middle = (area.bounds[0] + area.bounds[2]) / 2
    return shapely.transform(area, lambda points: np.stack([2 * middle - points[:, 0], points[:, 1]], axis=1))


def _free(area: Area, label: str, edges: NDArray[np.object_], taken: list[Area]) -> Area | None:
    """A box for a label below, above or beside an outline that meets no cut and no label."""
    left, top, right, bottom = area.bounds
    wide = len(label) * LABEL * LETTER
    places = ((left, bottom + CLEAR), (left, top - CLEAR - LABEL), (right + CLEAR, top), (left - wide - CLEAR, top))
    for x, y in places:
        box = shapely.box(x, y, x + wide, y + LABEL)
        if not shapely.intersects(edges, box).any() and not any(one.intersects(box) for one in taken):
            return box
    return None
