"""How thread lies in a shape: its density in cells, knots of needle points, and what stays bare of what lies under."""

import numpy as np
import shapely
from scipy.ndimage import uniform_filter
from scipy.spatial import KDTree

from velamen.core.stitching.roles import CODE

PLAIN = 5.0  # mm of thread per mm² of a plain satin of 0.40: a zig and a zag to each spacing


def stitches(strand, *roles):
    """The stitches of some roles: (n, 2, 2), and their numbers."""
    ends = np.stack([strand.xy[:-1], strand.xy[1:]], axis=1)
    mine = np.flatnonzero(np.isin(strand.role[1:], [CODE[role] for role in roles]))
    return ends[mine], mine


def along(ends, step):
    """Middles of pieces at most some mm long of stitches: (m, 2), the number of the stitch of each, each one's mm."""
    way = ends[:, 1] - ends[:, 0]
    size = np.linalg.norm(way, axis=1)
    count = np.maximum(np.ceil(size / step).astype(int), 1)
    owner = np.repeat(np.arange(len(count)), count)
    share = (np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + 0.5) / count[owner]
    return ends[owner, 0] + share[:, None] * way[owner], owner, (size / count)[owner]


def density(region, ends, cell, over):
    """mm of thread per mm² inside a region, in cells of some mm averaged over so many either way; for cells inside."""
    return density_at(region, ends, cell, over)[0]


def density_at(region, ends, cell, over):
    """The same, and the middles of those cells: (n, 2)."""
    left, top, right, bottom = region.buffer(1).bounds
    wide, high = int((right - left) / cell) + 1, int((bottom - top) / cell) + 1
    spot, _, length = along(ends, 0.05)
    thread = np.zeros((high, wide))
    at = ((spot - [left, top]) / cell).astype(int)
    np.add.at(thread, (at[:, 1], at[:, 0]), length)
    xs, ys = np.meshgrid(left + cell * (np.arange(wide) + 0.5), top + cell * (np.arange(high) + 0.5))
    inside = shapely.contains_xy(region, xs, ys).astype(float)
    part = uniform_filter(inside, over)
    known = (inside > 0) & (part > 0.3)
    found = uniform_filter(thread, over) / cell**2 / np.maximum(part, 1e-9)
    return found[known], np.stack([xs[known], ys[known]], axis=1)


def piled(strand):
    """mm² of cells of 0.5 mm in which over 15 mm of thread per mm² lie, underlay and ways too, ties apart."""
    ends = np.stack([strand.xy[:-1], strand.xy[1:]], axis=1)[strand.role[1:] != CODE["tie"]]
    spot, _, length = along(ends, 0.05)
    cell = np.floor(spot / 0.5).astype(int)
    cell -= cell.min(axis=0)
    thread = np.zeros(cell.max(axis=0) + 1)
    np.add.at(thread, tuple(cell.T), length)
    return float((thread > 15 * 0.25).sum() * 0.25)


def off_thread(spots, *lines):
    """mm from each of some spots (k, 2) to the nearest of some lines of thread (n, 2)."""
    tree = shapely.STRtree(shapely.linestrings(np.concatenate([np.stack([one[:-1], one[1:]], 1) for one in lines])))
    (number, _), far = tree.query_nearest(shapely.points(spots), return_distance=True, all_matches=False)
    return far[np.argsort(number)]


def knot(strand):
    """The most needle points within a circle 0.25 mm across."""
    return int(KDTree(strand.xy).query_ball_point(strand.xy, 0.125, return_length=True).max())


def bare(strand, cover, *roles):
    """mm of stitches of some roles with no covering stitch sewn later within 0.3."""
    under, when = stitches(strand, *roles)
    covers, later = stitches(strand, cover)
    spot, owner, length = along(under, 0.2)
    near = shapely.STRtree(shapely.linestrings(covers)).query(shapely.points(spot), "dwithin", 0.3)
    hidden = np.zeros(len(spot), dtype=bool)
    hidden[near[0][later[near[1]] > when[owner[near[0]]]]] = True
    return float(length[~hidden].sum())
