"""An overlocked edge: slanted bites of three rows that overlap like the strands of a rope, over a ridge of runs.

The rows of a bite lie evenly outside, which makes a smooth edge, and come together inside into one tooth with the
last row as its ridge. Figures: tried as computed pictures, nothing of it has been sewn.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import KDTree
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.stitching.roles import CODE
from velamen.core.stitching.rope_course import BITE, Course, courses, rounded
from velamen.core.stitching.run import run_along
from velamen.core.stitching.strand import Strand, join, strand

RUNS = (0.50, 0.85, 1.20)  # mm in from the outer rail: three rounds that make the ridge
RUN = 2.0  # mm of their stitches
FIRST_TIE = (0.0, 0.5, 0.05, 0.55)  # mm along the first of them
ON = 3.2  # mm by which each of them begins farther on
RIDGE = (0.38, 1.45, 0.85)  # mm in from the outer rail of an open zigzag, and its step
WALK, WALK_RUN = 1.4, 3.0  # mm in, and of a stitch: back to where all began
UNDER = (0.28, 0.95, -28.8, 2.5)  # mm in from the outer and the inner rail, lean in degrees, row in the bite
RAMP = (0.58, 1.30, 32.0, 2.25)  # the same of the rows under the last bites, which meet the first
OVERLAP, RAMP_WALK = 4, 1.62  # bites; mm in
SLANT = 32.0  # degrees of the rows that are seen
TOOTH = ((0.05, 0.40), (0.75, 0.20), (1.45, 0.0))  # rows on and mm in of a bite's inner ends
LAST_TIE = (2.3, 1.8, 2.25)  # mm along the last row
BACK = 0.55  # mm of the stitch that ends it
FROM_TOOTH = 0.35  # mm back along its thread at which a bite is left
CROWDED, EASE = 0.31, 0.08  # mm between ends from which they are drawn in, and over which
STAGGER = (0.56, 0.28, 0.0)  # mm that ends of a bite are drawn in where they crowd
TOO_NEAR, DRAWN, LEAST, NEIGHBOURS = 0.27, 0.32, 1.0, 60  # mm, mm, mm, ends of the same rail
ROUNDS = 6  # in which they are drawn back


@dataclass(frozen=True)
class _Edge:
    """A course with the width on either side of it, mm."""

    course: Course
    outside: float
    inside: float

    def run(self, begin: float, end: float, inset: float, stitch: float) -> Array:
        """A run from one place along the outline to another, mm in from the outer rail."""
        along = np.linspace(begin, end, max(int(abs(end - begin) / 0.2), 2))
        return run_along(self.course.points(along, self.outside - inset), stitch)

    def slanted(self, rows: Array, on: Array | float, outer: float, inner: float, lean: float) -> tuple[Array, Array]:
        """Both ends (n, 2) of rows: `outer` and `inner` mm in from their rails, `on` rows farther on inside."""
        course, here, there = self.course, self.outside - outer, inner - self.inside
        by = (here - there) * float(np.tan(np.radians(lean)))
        far = course.moved(course.at(rows + on), by, (here + there) / 2)
        return course.points(course.at(rows), here), course.points(far, there)


def ropes(region: Polygon, role: str, outside: float, inside: float, start: Place | None = None) -> list[Strand]:
    """An overlocked edge round every boundary of a region, its corners rounded, one strand each.

    outside, inside: mm off the outline and on it.
    """
    calm = rounded(region, outside, inside)
    return [_sewn(_Edge(one, outside, inside), role) for one in courses(calm, outside, inside, start)]


def _sewn(edge: _Edge, role: str) -> Strand:
    under = [*_ridge(edge), _under(edge), *_ramp(edge)]
    return join([_first_tie(edge), *(strand(one, "underlay") for one in under), *_seen(edge, role)])


def _first_tie(edge: _Edge) -> Strand:
    return _tied(edge.course.points(np.array(FIRST_TIE), edge.outside - RUNS[0]))


def _tied(places: Array) -> Strand:
    """Tie stitches, shorter than any others."""
    return Strand(places, np.full(len(places), CODE["tie"], dtype=np.uint8))


def _ridge(edge: _Edge) -> list[Array]:
    """Three rounds of runs, an open zigzag over them, and the way on to where all began."""
    size = edge.course.size
    on = min(ON, 0.1 * size)
    parts, at = [], FIRST_TIE[-1]
    for inset in RUNS:
        parts.append(edge.run(at, at + size + on, inset, RUN))
        at += size + on
    outer, inner, step = RIDGE
    count = max(round(size / step), 4) * 2
    along = at + np.arange(count + 1, dtype=np.float64) * (size / count)
    zigzag = edge.course.points(along, edge.outside - np.where(np.arange(count + 1) % 2 == 0, outer, inner))
    end = np.ceil((at + size) / size) * size
    return [*parts, zigzag, edge.run(at + size, end, WALK, WALK_RUN)]


def _under(edge: _Edge) -> Array:
    """One row to each bite, leaning the other way, its inner ends in the gaps between teeth."""
    outer, inner, lean, at = UNDER
    rows = BITE * np.arange(edge.course.bites, dtype=np.float64) + at
    return _zigzag(*_apart(*edge.slanted(rows, 0.0, outer, inner, lean)))


def _ramp(edge: _Edge) -> list[Array]:
    """Back under the last bites, and a row for each of them."""
    outer, inner, lean, at = RAMP
    bites = edge.course.bites
    last = min(OVERLAP, bites // 2)
    rows = BITE * np.arange(bites - last, bites, dtype=np.float64) + at
    back = edge.run(edge.course.size, float(edge.course.at(rows[:1])[0]), RAMP_WALK, RUN)
    return [back, _zigzag(*edge.slanted(rows, 0.0, outer, inner, lean))]


def _seen(edge: _Edge, role: str) -> list[Strand]:
    """The bites, the thread back from the last of them first, and a tie that the very last row covers."""
    bites = edge.course.bites
    rows = np.arange(BITE * bites, dtype=np.float64)
    nth = np.arange(BITE * bites) % BITE
    on, back = (np.array([one[axis] for one in TOOTH])[nth] for axis in (0, 1))
    outer, inner = edge.slanted(rows, on - nth, 0.0, 0.0, SLANT)
    inner = inner + _along(inner, outer) * back[:, None]
    outer, inner = _eased(edge, rows, outer, inner)
    outer, inner = _apart(outer, inner)
    tooth = inner[-1] + _along(inner[-1:], outer[:1])[0] * FROM_TOOTH
    points = np.concatenate([tooth[None], _zigzag(outer, inner)])
    ahead = _along(outer[-1:], inner[-1:])[0]
    tie = outer[-1] + np.array(LAST_TIE)[:, None] * ahead
    end = inner[-1] - BACK * ahead
    sewn = strand(points[:-2], role)
    return [sewn, _tied(tie), strand(points[-2:], role), _tied(end[None])]


def _eased(edge: _Edge, rows: Array, outer: Array, inner: Array) -> tuple[Array, Array]:
    """Ends drawn in along their own rows, each of a bite by its own measure, on the side where a bend crowds them."""
    course = edge.course
    along = course.at(rows)
    bend = course.told(course.bend, along)
    step = np.diff(course.at(np.append(rows, rows[-1] + 1)))
    drawn = np.array(STAGGER)[np.arange(len(rows)) % BITE]
    found = []
    for ends, others, rail in ((outer, inner, 1.0 + bend * edge.outside), (inner, outer, 1.0 - bend * edge.inside)):
        crowd = np.clip((CROWDED - step * np.maximum(rail, 0.0)) / EASE, 0.0, 1.0)
        found.append(ends + _along(ends, others) * (crowd * drawn)[:, None])
    return found[0], found[1]


def _apart(outer: Array, inner: Array) -> tuple[Array, Array]:
    """Ends that lie too near to one another on their rail drawn back along their own rows, the later of two."""
    found = [outer.copy(), inner.copy()]
    for side in (0, 1):
        for _ in range(ROUNDS):
            ends, others = found[side], found[1 - side]
            near = KDTree(ends).query_pairs(TOO_NEAR, output_type="ndarray")
            near = near[near[:, 1] - near[:, 0] <= NEIGHBOURS]
            later = np.unique(near[:, 1])
            later = later[np.linalg.norm(others[later] - ends[later], axis=1) > LEAST + DRAWN]
            if len(later) == 0:
                break
            ends[later] += DRAWN * _along(ends[later], others[later])
    return found[0], found[1]


def _along(one: Array, other: Array) -> Array:
    """Units from each of some places to another."""
    off = other - one
    return np.asarray(off / np.maximum(np.linalg.norm(off, axis=1, keepdims=True), 1e-9))


def _zigzag(outer: Array, inner: Array) -> Array:
    """Rows sewn out, in, out, in."""
    return np.stack([outer, inner], axis=1).reshape(-1, 2)
