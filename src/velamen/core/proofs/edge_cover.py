"""Edge-cover proof: is the cut edge of the cloth hidden after trimming error and pull?

Scissors leave the edge anywhere within the trim error of the outline, and the sewn cover
is drawn in at both ends of every stitch by the pull of its material. A place of the
outline is hidden when the edge as drawn, cut too wide and cut too deep all lie under
thread: no farther from a pulled-in cover stitch than half a thread and the gap the eye
does not see.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import KDTree
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.outline import reach
from velamen.core.geometry.region import Area
from velamen.core.proofs.proved import Spot
from velamen.core.stitching.border import sampled

TRIM_ERROR = 1.0  # mm by hand in the hoop
CUT_ERROR = 0.3  # mm when the cloth comes pre-cut
UNDER_THREAD = 0.25  # mm from a stitch's middle that still counts as hidden
CAP = 0.15  # mm taken off a stitch's ends, so that no place beyond its penetration counts
CATCH = 0.3  # mm of cloth that a stitch must catch to hold it
IN_HAND = 0.05  # mm a wanted width leaves over on either side
TRIED = 6  # stitches nearest by their middles that are tried before all of them
EVERY = 2  # samples of an outline from one tested place to the next, about 0.3 mm
MIN_PLACE = 0.3  # mm of outline; shorter bare stretches are within the samples' own step


@dataclass(frozen=True)
class EdgeCover:
    """What the proof found for one piece."""

    share: float  # of the edge's length that stays hidden or held
    bare: tuple[Spot, ...]  # the stretches that can show or come loose
    spare_outside: float  # mm by which the cover exceeds the error on straight stretches, negative when short of it
    spare_inside: float
    error: float  # mm, as assumed
    pull: float  # mm per side, as assumed
    hides: bool = True  # whether it is to hide the edge; else it is to hold it

    @property
    def held(self) -> bool:
        return not self.bare


def prove_edge_cover(
    region: Polygon, cover: list[Array], error: float, pull: float, outside: float, inside: float,
    hidden: Area | None = None,
) -> EdgeCover:  # fmt: skip
    """Proof for one piece whose cover hides the edge.

    cover: needle points (n, 2) of each cover strand; error: mm the cut edge may lie off
    the outline; pull: mm per side by which the material draws the stitches in; outside,
    inside: mm the cover is sewn off and on the cloth, for the spare; hidden: where later cloth hides the edge.
    """
    thread = _Thread(_pulled(cover, pull))
    hidden_length = total = 0.0
    bare: list[Spot] = []
    edge = sampled(region)
    for outline in edge.outlines:
        point, normal, along = outline.point[::EVERY], outline.normal[::EVERY], outline.along[::EVERY]
        off = reach(outline, edge.around, error, outward=True).depth[::EVERY, None]
        on = reach(outline, edge.around, error, outward=False).depth[::EVERY, None]
        places = np.concatenate([point, point + off * normal, point - on * normal])
        covered = np.asarray(thread.over(places).reshape(3, -1).all(axis=0)) | _within(hidden, point)
        weight = np.diff(along, append=outline.length)
        spots = _bare_places(point, weight, covered)
        bare.extend(spots)
        total += outline.length
        hidden_length += outline.length - sum(spot.length for spot in spots)
    return EdgeCover(
        share=min(max(hidden_length / total, 0.0), 1.0),
        bare=tuple(bare),
        spare_outside=round(outside - pull - error, 3),
        spare_inside=round(inside - pull - error, 3),
        error=error,
        pull=pull,
    )


def prove_edge_held(
    region: Polygon, stitches: list[Array], error: float, pull: float, inside: float, apart: float,
    hidden: Area | None = None,
) -> EdgeCover:  # fmt: skip
    """Proof for one piece whose cover holds an edge that stays in sight: bites, or a line inside it.

    stitches: needle points (n, 2) of each strand; inside: mm that they reach on the cloth; apart: mm
    along the edge within which a stitch must catch the cloth even where it was cut `error` too deep.
    """
    points = np.concatenate(stitches) if stitches else np.zeros((0, 2))
    deep = shapely.buffer(region, -(error + CATCH), quad_segs=4)
    caught = points[shapely.contains_xy(deep, points[:, 0], points[:, 1])] if not deep.is_empty else points[:0]
    tree = KDTree(caught) if len(caught) else None
    bare: list[Spot] = []
    total = held_length = 0.0
    for outline in sampled(region).outlines:
        point, along = outline.point[::EVERY], outline.along[::EVERY]
        far = tree.query(point)[0] if tree else np.full(len(point), np.inf)
        held = (far <= np.hypot(apart, inside + CATCH)) | _within(hidden, point)
        weight = np.diff(along, append=outline.length)
        spots = [one for one in _bare_places(point, weight, held) if one.length >= MIN_PLACE]
        bare.extend(spots)
        total += outline.length
        held_length += outline.length - sum(spot.length for spot in spots)
    spare = round(inside - pull - error - CATCH, 3)
    return EdgeCover(min(max(held_length / total, 0.0), 1.0), tuple(bare), spare, spare, error, pull, hides=False)


def _within(hidden: Area | None, point: Array) -> NDArray[np.bool_]:
    """Which places lie where later cloth hides them."""
    if hidden is None:
        return np.zeros(len(point), dtype=bool)
    return np.asarray(shapely.contains_xy(hidden, point[:, 0], point[:, 1]))


def wanted_width(share: float, extra: float, error: float, pull: float) -> float:
    """Smallest width in mm, to a tenth, that hides an edge of this error at a share outside in %."""
    narrow = min(share, 100.0 - share) / 100.0
    return float(np.ceil(round((error + pull - extra + IN_HAND) / narrow * 10.0, 6)) / 10.0)


class _Thread:
    """Stitches (n, 2, 2) that hide what lies within UNDER_THREAD of them."""

    def __init__(self, stitches: Array) -> None:
        self.stitches = stitches
        self.tree = KDTree(stitches.mean(axis=1)) if len(stitches) else None

    def over(self, places: Array) -> NDArray[np.bool_]:
        """Which places (n, 2) lie under thread. The nearest stitches are tried first, all for what is left."""
        under = np.zeros(len(places), dtype=bool)
        if self.tree is None:
            return under
        near = self.tree.query(places, k=min(TRIED, len(self.stitches)), workers=1)[1].reshape(len(places), -1)
        start, end = self.stitches[near, 0], self.stitches[near, 1]
        side, off = end - start, places[:, None] - start
        size = np.maximum(np.einsum("nkj,nkj->nk", side, side), 1e-12)
        share = np.clip(np.einsum("nkj,nkj->nk", off, side) / size, 0.0, 1.0)
        off -= share[..., None] * side
        under[:] = (np.einsum("nkj,nkj->nk", off, off) <= UNDER_THREAD**2).any(axis=1)
        left = np.flatnonzero(~under)
        if len(left):
            found = self._lines().query(shapely.points(places[left]), predicate="dwithin", distance=UNDER_THREAD)[0]
            under[left[np.unique(found)]] = True
        return under

    def _lines(self) -> shapely.STRtree:
        if self._kept is None:
            self._kept = shapely.STRtree(shapely.linestrings(self.stitches))
        return self._kept

    _kept: shapely.STRtree | None = None


def _pulled(cover: list[Array], pull: float) -> Array:
    """Cover stitches (n, 2, 2), drawn in by `pull` mm at both ends."""
    lines = [np.zeros((0, 2, 2))]
    for points in cover:
        start, end = points[:-1], points[1:]
        length = np.linalg.norm(end - start, axis=1, keepdims=True)
        draw = np.minimum(pull + CAP, 0.45 * length) / np.maximum(length, 1e-9) * (end - start)
        lines.append(np.stack([start + draw, end - draw], axis=1))
    return np.concatenate(lines)


def _bare_places(point: Array, weight: Array, hidden: NDArray[np.bool_]) -> list[Spot]:
    """Each stretch of one closed outline that is not hidden."""
    if hidden.all():
        return []
    if not hidden.any():
        return [_bare_place(np.concatenate([point, point[:1]]), float(weight.sum()))]
    turn = -int(np.flatnonzero(hidden)[0])
    rolled, weights, points = np.roll(hidden, turn), np.roll(weight, turn), np.roll(point, turn, axis=0)
    run = np.cumsum(np.diff(rolled, prepend=True) != 0)
    places = []
    for label in np.unique(run[~rolled]):
        rows = np.flatnonzero(run == label)
        length = float(weights[rows].sum())
        if length >= MIN_PLACE or len(rows) > 4:
            places.append(_bare_place(points[rows], length))
    return places


def _bare_place(line: Array, length: float) -> Spot:
    x, y = line[len(line) // 2]
    thinned = line if len(line) < 3 else shapely.get_coordinates(shapely.simplify(shapely.LineString(line), 0.05))
    return Spot(
        round(float(x), 2), round(float(y), 2), round(length, 2), tuple(map(tuple, thinned.round(2).tolist()))
    )
