"""Edge stitches along an outline: bites of E-stitch and blanket, and overedge, between matched rails."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray

from velamen.core.arrays import Array, numbered
from velamen.core.geometry.rails import Rails
from velamen.core.stitching.run import run_along
from velamen.core.stitching.satin import pulled_back, satin, spread_knots

FINE = 0.2  # mm between places of an edge run
LEAN = 0.55  # of the width, by which the bites of an overedge slant
RIDGE = (0.08, 0.5)  # shares of the width from its outer rail, between which the ridge lies
RIDGE_SPACING = 0.9  # mm
SIDE = 0.8  # mm of either side of a corner, by which its angle is told
CROWD = 0.6  # of the distance of bites, from which they end by turns
MOST_BESIDE = 6  # needle points of an overedge that come as near to one of them as BESIDE
ROUNDS = 10  # in which needle points that still come together are spread
SHARP = np.radians(35.0)  # turn of the outer rail that is a corner for a blanket stitch
TRIES, BESIDE, DRAWN_BACK = 8, 0.25, 0.85  # how bites are drawn back: mm between them, share left each time
SAME = 0.6  # of a step; bites nearer to a corner's make room for it


def bitten(rails: Rails, step: float, width: float, start: float = 0.0) -> Array:
    """Needle points (n, 2) of an edge run on the outer rail with bites `width` mm long, one on every corner.

    Bites are shorter only where the inner rail is nearer, or where one would cross another.
    """
    at, corner = _with_corners(rails, step, start)
    outer, inner, along, _ = rails.at(at)
    half = _halving(rails, along, outer)
    half *= np.sign(np.einsum("ij,ij->i", half, inner - outer))[:, None]
    inner = np.where(corner[:, None], outer + width * half, inner)
    way = inner - outer
    size = np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9)
    return _comb(rails, at, outer, _apart(outer, outer + way / size * np.minimum(size, width), corner), step)


def _halving(rails: Rails, along: Array, place: Array) -> Array:
    """Unit courses that halve the angle of the outer rail at places so many mm along it, to either side."""
    total = float(rails.outer_way[-1])
    ways = []
    for off in (-SIDE, SIDE):
        at = np.interp(np.mod(along + off, total), rails.outer_way, rails.advance)
        way = rails.at(at)[0] - place
        ways.append(way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-9))
    half = ways[0] + ways[1]
    return np.asarray(half / np.maximum(np.linalg.norm(half, axis=1, keepdims=True), 1e-9))


def _apart(outer: Array, inner: Array, corner: NDArray[np.bool_]) -> Array:
    """Inner ends of bites, drawn back where they would come too near another; on corners only for others such."""
    for _ in range(TRIES):
        bites = shapely.linestrings(np.stack([outer, inner], axis=1))
        one, other = shapely.STRtree(bites).query(bites, "dwithin", BESIDE)
        yields = ~corner[one] | corner[other]
        met = (one != other) & yields & (shapely.distance(shapely.points(outer[one]), bites[other]) > BESIDE)
        if not met.any():
            break
        back = np.unique(one[met])
        inner[back] = outer[back] + DRAWN_BACK * (inner[back] - outer[back])
    return inner


def overedge(rails: Rails, spacing: float, start: float = 0.0, overlap: float = 1.5) -> Array:
    """Needle points (n, 2) of slanted bites that overlap one another, over a ridge along the outer rail."""
    width = float(np.median(np.linalg.norm(rails.outer - rails.inner, axis=1)))
    low, high = RIDGE
    across = rails.inner - rails.outer
    narrow = Rails(rails.outer + low * across, rails.outer + high * across, rails.outer_way, rails.inner_way,
                   rails.advance)  # fmt: skip
    narrow = replace(narrow, closed=rails.closed)
    ridge = satin(narrow, RIDGE_SPACING, 0.0, start, 0.6, None if rails.closed else rails.length)
    count = max(round(rails.length / spacing), 4)
    more = max(round(overlap / spacing), 1) if rails.closed else 0
    at = start + rails.length * np.arange(count + more + 1) / count
    ahead = LEAN * width
    if not rails.closed:  # back from where the ridge ends
        at, ahead = at[::-1], -ahead
    outer = rails.at(at)[0]
    inner = rails.at(at + ahead)[1]
    # Where one side comes together, round a corner, a hole or a small circle, bites end on it by turns.
    gaps = [np.linalg.norm(np.gradient(side, axis=0), axis=1) for side in (outer, inner)]
    limit, nth = CROWD * rails.length / count, np.arange(len(at))
    back, forth = (pulled_back(own, far, nth, limit)[:, None] for own, far in (gaps, gaps[::-1]))
    bites = np.stack([outer + back * (inner - outer), inner + forth * (outer - inner)], axis=1).reshape(-1, 2)
    return spread_knots(spread_knots(np.concatenate([ridge, bites]), ROUNDS), ROUNDS, BESIDE, MOST_BESIDE)


def _comb(rails: Rails, at: Array, outer: Array, inner: Array, step: float) -> Array:
    """An edge run that turns in to a bite and out again at every place."""
    low, high = float(at[0]), float(at[-1])
    between = np.arange(low, high, FINE)
    run = rails.at(between)[0]
    place = np.concatenate([between, at, at + 1e-6, at + 2e-6])
    points = np.concatenate([run, outer, inner, outer])
    order = np.argsort(place, kind="stable")
    longest = max(step, float(np.linalg.norm(outer - inner, axis=1).max(initial=0.0))) + 0.01
    return run_along(points[order], longest)


def _with_corners(rails: Rails, step: float, start: float) -> tuple[Array, NDArray[np.bool_]]:
    """Advances a step apart as evenly as corners allow, each of which has one of its own, and which those are."""
    corners = _corner_advances(rails) - start
    corners = np.sort(np.mod(corners, rails.length))
    if len(corners) == 0:
        count = max(round(rails.length / step), 2)
        return start + rails.length * np.arange(count + 1) / count, np.zeros(count + 1, dtype=bool)
    corners = corners[np.concatenate(([True], np.diff(corners) > SAME * step))]
    ends = np.append(corners, corners[0] + rails.length)
    gaps = np.diff(ends)
    counts = np.maximum(np.round(gaps / step), 1).astype(np.int64)
    owner = np.repeat(np.arange(len(counts)), counts)
    nth = numbered(counts)
    at = np.mod(ends[owner] + nth / counts[owner] * gaps[owner], rails.length)  # from the start on, past corners
    order = np.argsort(at)
    at, corner = at[order], (nth == 0)[order]
    return start + np.append(at, at[0] + rails.length), np.append(corner, corner[0])


def _corner_advances(rails: Rails) -> Array:
    """Where the outer rail turns a corner."""
    if not rails.closed:
        return np.zeros(0)
    line = shapely.get_coordinates(shapely.simplify(shapely.LinearRing(rails.outer[:-1]), 0.12))[:-1]
    if len(line) < 3:
        return np.zeros(0)
    step = np.roll(line, -1, axis=0) - line
    heading = np.arctan2(step[:, 1], step[:, 0])
    turn = np.abs(np.angle(np.exp(1j * (heading - np.roll(heading, 1)))))
    off = np.linalg.norm(rails.outer[None] - line[turn > SHARP][:, None], axis=2)
    return np.asarray(rails.advance[np.argmin(off, axis=1)]) if len(off) else np.zeros(0)
