"""Overlaps of strokes that meet: the one sewn first is grown across the cut, so that the other covers its end."""

from __future__ import annotations

import numpy as np
import shapely
from shapely import Polygon

from velamen.core.geometry.region import Area
from velamen.core.geometry.strokes import Contact, Strokes

INTO, MITRE = 0.9, 0.4  # mm that the one sewn first is grown into the other, and either side of a mitre
OF_THIN = 0.8  # of the thinner half width, the most of that
LEAST, LATER = 0.3, 0.05  # mm: the least of it, and what the later one is grown
SLIVER = 0.03  # mm; what is no wider than twice that between two strokes is none
NARROWER = 0.12  # mm per side, by which a branch is narrower as it runs on


def grown_strokes(found: Strokes, region: Polygon, rank: dict[int, int], halves: list[float]) -> list[Polygon]:
    """The polygon in which each stroke's rows lie.

    rank: when each stroke is covered; halves: half width of each, mm.
    """
    more: list[list[Area]] = [[] for _ in found.strokes]
    for contact in found.contacts:
        if contact.branch == contact.host:
            continue  # joined to itself it would be open to its rows on the other side
        thin = min(halves[contact.branch], halves[contact.host])
        first = rank[contact.branch] <= rank[contact.host]
        if contact.cut.touch:
            size = max(min(INTO, OF_THIN * thin), LEAST)
            more[contact.branch].append(_strip(contact, size if first else LATER, -1.0))
            more[contact.host].append(_strip(contact, LATER if first else size, 1.0))
        elif contact.cut.mitre:
            size = max(min(MITRE, 0.5 * OF_THIN * thin), LEAST)
            more[contact.branch].append(_strip(contact, size, -1.0))
            more[contact.host].append(_strip(contact, size, 1.0))
        else:
            size = max(min(INTO, OF_THIN * thin), LEAST)
            more[contact.branch].append(_strip(contact, size if first else LATER, -1.0, NARROWER if first else 0.0))
            more[contact.host].append(_strip(contact, LATER if first else size, 1.0))
    own = [stroke.region for stroke in found.strokes]
    return [_with(mine, part, region) for mine, part in zip(own, _single(own, more, rank), strict=True)]


def _single(own: list[Polygon], more: list[list[Area]], rank: dict[int, int]) -> list[Area]:
    """What strokes are grown by, each place of another's by one of them: a third layer of thread would be a lump.

    What is sewn first keeps its own.
    """
    grown = [shapely.union_all(parts) for parts in more]
    taken: Area = Polygon()
    for nth in sorted(range(len(own)), key=rank.__getitem__):
        other = shapely.difference(taken, own[nth])
        thick = shapely.buffer(shapely.buffer(other, -SLIVER), 1.5 * SLIVER, join_style="mitre")
        grown[nth] = shapely.difference(grown[nth], thick)
        taken = shapely.union(taken, shapely.difference(grown[nth], own[nth]))
    return grown


def _strip(contact: Contact, size: float, sign: float, narrower: float = 0.0) -> Polygon:
    """A strip along a cut, so wide, on the branch's side (1) or the host's (-1), from a little before the cut."""
    line = contact.cut.line
    along = line[1] - line[0]
    length = max(float(np.linalg.norm(along)), 1e-9)
    short = min(narrower, 0.2 * length) / length * along
    ends = np.stack([line[0] + short, line[1] - short])
    inward = sign * contact.cut.inward
    return Polygon(np.concatenate([ends - 0.02 * inward, (ends + size * inward)[::-1]]))


def _with(own: Polygon, more: Area, region: Polygon) -> Polygon:
    if more.is_empty:
        return own
    whole = shapely.intersection(shapely.union(own, more), region)
    kept = [part for part in shapely.get_parts(whole) if part.geom_type == "Polygon"]
    return max(kept, key=lambda part: float(part.area)) if kept else own


def own_overlaps(found: Strokes, nth: int, region: Polygon) -> list[Polygon]:
    """Strips past the cuts at which a stroke ends at itself, in which its last rows lie."""
    mine = [contact for contact in found.contacts if contact.branch == contact.host == nth]
    strips = [_strip(contact, MITRE if contact.cut.mitre else INTO, -1.0, NARROWER) for contact in mine]
    parts = [part for strip in strips for part in shapely.get_parts(shapely.intersection(strip, region))]
    return [part for part in parts if part.geom_type == "Polygon"]
