"""Pieces that go round others: which those are, and the areas they are sewn on."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
import shapely

from velamen.core.constructions import construction
from velamen.core.geometry import combine
from velamen.core.geometry.region import grown
from velamen.core.job.document import BASTING, EVERY, Piece
from velamen.core.memo import Same
from velamen.core.setting import Plain
from velamen.core.timeline.layers import Area

NEAR = 8.0  # mm from a piece, within which cloth laid later concerns its edge


def served(piece: Piece, pieces: Sequence[Piece]) -> list[Piece]:
    """The pieces that one goes round: those it names, or every one with a shape.

    It may name shapes that no piece sews as well. Basting round everything goes round grounds too. Names
    of pieces that are gone are passed over.
    """
    if EVERY not in piece.around:
        return [one for one in pieces if one.id in piece.around and one.id != piece.id]
    if piece.construct == BASTING:
        return [one for one in pieces if one.id != piece.id]
    return [one for one in pieces if one.shape and not construction(one.construct).ground]


def in_turn(pieces: Sequence[Piece]) -> list[int]:
    """Places of the pieces that go round others, each after those it may go round."""

    def rank(piece: Piece) -> int:
        kinds = [construction(one.construct) for one in pieces if one.id in piece.around]
        return 2 if piece.construct == BASTING else 1 if any(kind.ground for kind in kinds) else 0

    derived = [nth for nth, piece in enumerate(pieces) if not piece.shape]
    return sorted(derived, key=lambda nth: rank(pieces[nth]))


def sewn_area(piece: Piece, region: Area, known: Mapping[str, Plain]) -> Area:
    """The area that a piece is sewn on, its cover beyond the outline counted."""
    reach = construction(piece.construct).reach(known)
    return grown(region, round(reach, 3), 8) if reach > 0 else region


@lru_cache(maxsize=256)
def whole(areas: tuple[Same[Area], ...]) -> Area:
    """Areas joined."""
    return shapely.union_all(np.array([one.it for one in areas], dtype=object))


def even_ground(
    areas: Sequence[Area], margin: float, gap: float = 0.0, calm: float = 0.0, sharp: bool = False
) -> Area:
    """The ground at an even margin round areas, mm, gaps closed and outline calmed, in one part or several.

    Holes that no scissors or pile would show, narrower than the gap, are closed with it.
    """
    return _even_ground(tuple(Same(one) for one in areas), margin, gap, calm, sharp)


@lru_cache(maxsize=128)
def _even_ground(areas: tuple[Same[Area], ...], margin: float, gap: float, calm: float, sharp: bool) -> Area:
    if not areas:
        return shapely.MultiPolygon()
    parts = combine.offset([one.it for one in areas], margin, sharp, gap, calm)
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


def later_cloths(pieces: Sequence[Piece], regions: Sequence[Area], opaque: Sequence[bool]) -> list[Area | None]:
    """For each piece the cloth laid after it over or beside its edge, None where there is none.

    opaque: whether each piece lays a cloth that hides what lies under it.
    """
    found: list[Area | None] = [None] * len(pieces)
    if not any(opaque):
        return found
    one, other = shapely.STRtree(list(regions)).query(list(regions), predicate="dwithin", distance=NEAR)
    later: dict[int, list[int]] = {}
    for nth, over in sorted(zip(one.tolist(), other.tolist(), strict=True)):
        if over > nth and opaque[over] and opaque[nth]:
            later.setdefault(nth, []).append(over)
    for nth, over in later.items():
        found[nth] = whole(tuple(Same(regions[one]) for one in over))
    return found
