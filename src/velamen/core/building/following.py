"""Pieces that go round others: which those are, the areas they are sewn on, and cloth laid later beside a piece."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import shapely

from velamen.core.constructions import construction
from velamen.core.geometry.even import joined
from velamen.core.geometry.region import Area, grown
from velamen.core.job.document import EVERY, Piece
from velamen.core.memo import kept
from velamen.core.setting import Plain
from velamen.core.stitching.border import tips_beyond

MANY, FINE = 20_000, 0.03  # points of a region, from which what is finer than so many mm goes
NEAR = 8.0  # mm from a piece, within which cloth laid later concerns its edge


def served(piece: Piece, pieces: Sequence[Piece]) -> list[Piece]:
    """The pieces that one goes round: those it names, or every one with a shape.

    It may name shapes that no piece sews as well. What goes round everything goes round grounds too. Names
    of pieces that are gone are passed over.
    """
    if EVERY not in piece.around:
        return [one for one in pieces if one.id in piece.around and one.id != piece.id]
    if _everything(piece):
        return [one for one in pieces if one.id != piece.id]
    return [one for one in pieces if one.id != piece.id and not is_ground(one) and (one.shape or not hosting(piece))]


def is_ground(piece: Piece) -> bool:
    """Whether a piece is a ground of others and no design itself."""
    around = construction(piece.construct).around
    return around is not None and not around.early


def hosting(piece: Piece) -> bool:
    """Whether what a piece goes round decorates it."""
    around = construction(piece.construct).around
    return around is not None and around.early and not piece.shape


def hosts(pieces: Sequence[Piece]) -> dict[str, str]:
    """The piece that each one decorates, by their ids: the one it names, or one that lays its cloth round it."""
    found = {guest.id: one.id for one in reversed(pieces) if hosting(one) for guest in served(one, pieces)}
    return found | {one.id: one.on for one in pieces if one.on}


def in_turn(pieces: Sequence[Piece]) -> list[int]:
    """Places of the pieces that go round others, each after those it may go round."""

    def rank(piece: Piece) -> int:
        kinds = [construction(one.construct) for one in pieces if one.id in piece.around]
        if hosting(piece):
            return 0
        return 3 if _everything(piece) else 2 if any(kind.around for kind in kinds) else 1

    derived = [nth for nth, piece in enumerate(pieces) if not piece.shape]
    return sorted(derived, key=lambda nth: rank(pieces[nth]))


def sewn_area(piece: Piece, region: Area, known: Mapping[str, Plain]) -> Area:
    """The area that a piece is sewn on, what lies beyond its outline counted."""
    beyond = construction(piece.construct).beyond(known)
    if beyond <= 0 or region.is_empty:
        return region
    whole = grown(_calmed(region), round(beyond, 3), 8)
    return joined([whole, *tips_beyond(region, beyond)]) if construction(piece.construct).pointed(known) else whole


@kept(64, lasting=True)
def _calmed(region: Area) -> Area:
    """A region without the finest of its edge where that has very many points: growing it takes long by them."""
    if shapely.get_num_coordinates(region) < MANY:
        return region
    calm: Area = shapely.simplify(region, FINE)
    return calm if calm.is_valid and not calm.is_empty else region


@kept(64, lasting=True)
def later_cloths(regions: Sequence[Area], opaque: Sequence[bool]) -> list[Area | None]:
    """For each piece, in stack order, the cloth laid after it over or beside its edge, None where there is none.

    opaque: whether each piece lays a cloth that hides what lies under it.
    """
    found: list[Area | None] = [None] * len(regions)
    if not any(opaque):
        return found
    one, other = shapely.STRtree(list(regions)).query(list(regions), predicate="dwithin", distance=NEAR)
    later: dict[int, list[int]] = {}
    for nth, over in sorted(zip(one.tolist(), other.tolist(), strict=True)):
        if over > nth and opaque[over] and opaque[nth]:
            later.setdefault(nth, []).append(over)
    for nth, over in later.items():
        found[nth] = joined([regions[one] for one in over])
    return found


def _everything(piece: Piece) -> bool:
    around = construction(piece.construct).around
    return around is not None and around.everything
