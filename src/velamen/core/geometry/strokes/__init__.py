"""Strokes of a shape: its parts after cuts across it, each to be sewn as one column, and where they meet.

The method is described in docs/architecture.md, "Columns". Rows of a stroke are chords of its own polygon, so that
they cannot swing into a junction: that belongs to one stroke, and the others see a wall there.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.arrays import Array
from velamen.core.geometry.region import Area
from velamen.core.geometry.strokes.bends import Walls, bend_cuts
from velamen.core.geometry.strokes.branches import FEWER, LAST_FEWER, LAST_STEPS, STEPS, branches_of, prune
from velamen.core.geometry.strokes.junctions import Cut, cross
from velamen.core.geometry.strokes.mesh import mesh_of
from velamen.core.geometry.strokes.serifs import settle_serifs

GAP, PAST_END = 0.003, 0.02  # mm either side of a cut, and past its ends
SPECK, FLECK = 0.05, 1e-6  # mm², below which a part is none, and is not even looked at
DOUBLED = 0.15  # of its length, within which a cut lies on another
SHORT_LINK, SHORT_END = 0.35, 0.3  # times a cut's length that a stroke reaches at least, between cuts or from one


MOST_BRANCHES, FRINGES = 250, 0.25  # of a shape of strokes, and mm either way of fringes finer than a stitch


@dataclass(frozen=True)
class Stroke:
    """A part of a shape. region: its own polygon; ends: numbers of the cuts at which it ends; tips: places (2,) near
    its free ends; hub: fit for a fill."""

    region: Polygon
    ends: tuple[int, ...]
    tips: tuple[Array, ...] = ()
    hub: bool = False


@dataclass(frozen=True)
class Contact:
    """Where stroke `branch` ends at stroke `host`: they meet at a cut; both end there if that is a mitre."""

    cut: Cut
    branch: int
    host: int


@dataclass(frozen=True)
class Strokes:
    """The strokes of a shape and where they meet."""

    strokes: tuple[Stroke, ...]
    contacts: tuple[Contact, ...]


def strokes_of(region: Polygon, fringes: float = FRINGES) -> Strokes:
    """The strokes of a region, at least one where it has an area.

    fringes: mm of an outline's fringes that are smoothed away where it has more branches than a shape of strokes.
    """
    mesh = mesh_of(region)
    if mesh is None:
        return Strokes((), ())
    found = branches_of(mesh)
    prune(found, STEPS, FEWER, set())
    if len(found.branch) > MOST_BRANCHES and fringes and (calm := _without_fringes(region, fringes)) is not None:
        return strokes_of(calm, 0.0)
    across = settle_serifs(found)
    prune(found, LAST_STEPS, LAST_FEWER, {wing for wings in across.values() for wing in wings})
    crossing = cross(found, across, region)
    walls = Walls(mesh, shapely.difference(region, _blades(crossing.cuts)), crossing.cuts)
    cuts, tips = list(crossing.cuts), list[Array]()
    for course in crossing.courses:
        bends, ends = bend_cuts(walls, course)
        cuts += bends
        tips += [place for place in ends if place is not None]
    return _parted(region, cuts, crossing.hubs, tips)


def _without_fringes(region: Polygon, size: float) -> Polygon | None:
    """A region without spikes and notches narrower than twice a size, where it stays one."""
    calm = region.buffer(size, quad_segs=2).buffer(-2.0 * size, quad_segs=2).buffer(size, quad_segs=2)
    return calm if isinstance(calm, Polygon) and not calm.is_empty else None


def _blades(cuts: Sequence[Cut]) -> Area:
    """What cuts take away, a little past their ends, as one that another one ended at may be left out."""
    lines = []
    for cut in cuts:
        past = PAST_END / max(cut.length, 1e-9) * (cut.line[1] - cut.line[0])
        lines.append(shapely.LineString([cut.line[0] - past, cut.line[1] + past]).buffer(GAP, cap_style="flat"))
    return shapely.union_all(lines)


def _parted(region: Polygon, cuts: list[Cut], hubs: list[Array], tips: list[Array]) -> Strokes:
    """A region cut apart, and which parts lie on either side of every cut; parts too short are left with another."""
    cuts = _apart(cuts)
    for _ in range(len(cuts) + 1):
        parts, sides = _sides(region, cuts, FLECK)
        short = _short(parts, sides, cuts, hubs)
        if short is None:
            break
        part, longest = short
        cuts = [replace(cut, touch=True, mitre=False) if part in both else cut
                for nth, (cut, both) in enumerate(zip(cuts, sides, strict=True)) if nth != longest]  # fmt: skip
    parts, sides = _sides(region, cuts, SPECK)
    if not parts:
        return Strokes((Stroke(region, ()),), ())
    tree = shapely.STRtree(parts)
    contacts: list[Contact] = []
    ends = [list[int]() for _ in parts]
    for cut, (branch, host) in zip(cuts, sides, strict=True):
        if branch is None or host is None:
            continue
        if cut.touch and branch == host:
            cut = replace(cut, touch=False)  # a stroke that ends at itself by way of a part too short to count
        if not cut.touch:
            ends[branch].append(len(contacts))
        if cut.mitre:
            ends[host].append(len(contacts))
        contacts.append(Contact(cut, branch, host))
    middle = {_part_at(tree, place) for place in hubs}
    loose: list[list[Array]] = [[] for _ in parts]
    for place in [*tips, *(cut.bend for cut in cuts if cut.bend is not None and not cut.mitre and not cut.touch)]:
        if (at := _part_at(tree, place)) is not None:
            loose[at].append(place)
    made = [Stroke(part, tuple(ends[nth]), tuple(loose[nth]), nth in middle) for nth, part in enumerate(parts)]
    return Strokes(tuple(made), tuple(contacts))


def _apart(cuts: list[Cut]) -> list[Cut]:
    """Cuts without those that fall on another: what lay between the two is no stroke, and the others touch there."""
    left: list[Cut] = []
    for cut in cuts:
        near = [nth for nth, one in enumerate(left)
                if np.linalg.norm(one.middle - cut.middle) < DOUBLED * max(cut.length, one.length)]  # fmt: skip
        if not near:
            left.append(cut)
        elif left[near[0]].inward @ cut.inward < 0.0:
            left[near[0]] = replace(left[near[0]], touch=True, mitre=False)
    return left


Sides = list[tuple[int | None, int | None]]
"""By cut the parts on the side of what ends there and on the other."""


def _sides(region: Polygon, cuts: list[Cut], least: float) -> tuple[list[Polygon], Sides]:
    """The parts of a region over `least` mm², and which lie on either side of every cut."""
    parts = [part for part in shapely.get_parts(shapely.difference(region, _blades(cuts)))
             if part.geom_type == "Polygon" and part.area > least]  # fmt: skip
    if not parts:
        return [], [(None, None)] * len(cuts)
    tree = shapely.STRtree(parts)
    both = [(_part_at(tree, cut.middle + 2.0 * GAP * cut.inward), _part_at(tree, cut.middle - 2.0 * GAP * cut.inward))
            for cut in cuts]  # fmt: skip
    return parts, both


def _short(parts: list[Polygon], sides: Sides, cuts: list[Cut], hubs: list[Array]) -> tuple[int, int] | None:
    """A part too short to be a stroke, and the longest cut beside it; None where all are strokes."""
    for nth, part in enumerate(parts):
        mine = [at for at, both in enumerate(sides) if nth in both]
        ends = [at for at in mine if sides[at][0] == nth or cuts[at].mitre]
        if not ends or any(part.contains(shapely.Point(place)) for place in hubs):
            continue
        longest = max(ends, key=lambda at: round(cuts[at].length, 3))
        if len(ends) > 1:
            far = max(np.linalg.norm(cuts[one].middle - cuts[two].middle) for one, two in combinations(ends, 2))
            least = SHORT_LINK * min(cuts[at].length for at in ends)
        elif len(mine) == 1:
            ring = shapely.get_coordinates(part)
            far = np.abs((ring - cuts[longest].middle) @ cuts[longest].inward).max()
            least = SHORT_END * cuts[longest].length
        else:
            continue
        if far < least:
            return nth, longest
    return None


def _part_at(tree: shapely.STRtree, place: Array) -> int | None:
    near = tree.query_nearest(shapely.Point(place), max_distance=0.1, all_matches=False)
    return int(np.asarray(near)[0]) if len(near) else None
