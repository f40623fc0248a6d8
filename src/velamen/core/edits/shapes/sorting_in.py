"""Artwork sorted before it comes in: by its own colours and how wide its parts are, each sort sewn in one way."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from velamen.core.arrays import Array, Index
from velamen.core.artwork.svg import Artwork
from velamen.core.constructions import construction, constructions, usual
from velamen.core.constructions.base import Construction
from velamen.core.edits.shapes.arranging import grouped
from velamen.core.edits.shapes.bring_in import MAX_PIECES, bring_in, with_region
from velamen.core.errors import BadInput
from velamen.core.geometry.healing import ROOM, healed
from velamen.core.job.document import NEAREST, Job, Piece
from velamen.core.materials.colour import matching_cloths, nearest_thread
from velamen.core.materials.library import Library
from velamen.core.materials.records import Cloth

LETTERS, TALL, BESIDE = 4, 25.0, 1.2  # letters at least, mm of the tallest, and of their height that gaps between are
ALIKE, DOTS = 2.5, 0.3  # times as tall that one letter may be as another, and of its height that dots lie off it
Regions = NDArray[np.object_]  # of polygons
LEFT = ""  # the way of what does not come in


@dataclass(frozen=True)
class Sort:
    """Regions that come in alike. parts: their numbers; area: mm² of all; narrowest: mm of the narrowest stroke; way:
    the construction that suits them; letters: whether they look like text, which comes in as one group."""

    colour: str
    layer: str
    parts: tuple[int, ...]
    area: float
    narrowest: float
    way: str
    letters: bool = False


def sorts_of(artwork: Artwork) -> list[Sort]:
    """The sorts of an artwork in the order of their first parts."""
    regions = np.array([one.region for one in artwork.drawn], dtype=object)
    if not len(regions):
        return []
    stroke, short = strokes_of(regions), _short_sides(regions)
    words = _words(artwork, regions)
    groups: dict[tuple[str, str, str, int], list[int]] = {}
    for nth, one in enumerate(artwork.drawn):
        word = int(words[nth])
        way = "" if word >= 0 else suiting(float(stroke[nth]), float(short[nth])).name
        groups.setdefault((one.colour, one.layer, way, word), []).append(nth)
    found = []
    for (colour, layer, way, word), parts in groups.items():
        width = float(np.median(stroke[parts]))
        chosen = way or suiting(width, min(float(np.median(short[parts])), 2.0 * width)).name
        found.append(Sort(colour, layer, tuple(parts), float(shapely.area(regions[parts]).sum()),
                          float(stroke[parts].min()), chosen, word >= 0))  # fmt: skip
    return found


def offered() -> list[Construction]:
    """The constructions that artwork is offered to come in as."""
    return [one for one in constructions().values() if one.sorted_as is not None]


def suiting(stroke: float, short: float) -> Construction:
    """The construction that suits a region by the width of its stroke and the shorter side of its box, mm."""
    return next(one for one in offered() if one.sorted_as and one.sorted_as.suits(stroke, short))


def strokes_of(regions: Regions) -> Array:
    """mm (n,) of the strokes that regions are made of: their area by half their outline."""
    return np.asarray(2.0 * shapely.area(regions) / np.maximum(shapely.length(regions), 1e-9))


def _short_sides(regions: Regions) -> Array:
    left, top, right, bottom = shapely.bounds(regions).T
    return np.asarray(np.minimum(right - left, bottom - top))


def _words(artwork: Artwork, regions: Regions) -> Index:
    """(n,) the number of the word that each region is a letter of, -1 for none: small ones of one colour and about
    one height, side by side."""
    left, top, right, bottom = shapely.bounds(regions).T
    high = bottom - top
    letters = np.flatnonzero(high < TALL)
    word = np.full(len(artwork.drawn), -1, dtype=np.int64)
    if len(letters) < LETTERS:
        return word
    tree = shapely.STRtree([shapely.box(*box) for box in shapely.bounds(regions[letters])])
    one, other = tree.query(
        [shapely.box(left[nth] - BESIDE * high[nth], top[nth], right[nth] + BESIDE * high[nth], bottom[nth])
         for nth in letters]
    )  # fmt: skip
    a, b = letters[one], letters[other]
    colours = np.array([part.colour for part in artwork.drawn], dtype=object)
    alike = np.maximum(high[a], high[b]) < ALIKE * np.minimum(high[a], high[b])
    dotted = (high[b] < high[a]) & (top[b] > top[a] - DOTS * high[a]) & (bottom[b] < bottom[a] + DOTS * high[a])
    kept = (a != b) & (colours[a] == colours[b]) & (alike | dotted)
    count = len(artwork.drawn)
    graph = coo_array((np.ones(int(kept.sum())), (a[kept], b[kept])), shape=(count, count))
    _, label = connected_components(graph, directed=False)
    sizes = np.bincount(label)
    return np.where(np.isin(np.arange(count), letters) & (sizes[label] >= LETTERS), label, word)


def take_sorted(
    job: Job, artwork: Artwork, ways: Mapping[int, str], left: Collection[int] = (), close_under: bool = False,
    lines: bool = True,
) -> Job:  # fmt: skip
    """The job with the parts of an artwork, each sort sewn in its way, in the cloth and thread nearest to its colour.

    ways: constructions by number of a sort, LEFT for what does not come in; left: numbers of single parts that do
    not; close_under: whether parts are healed where others lie over them; lines: whether open lines come too.
    """
    sorts, out = sorts_of(artwork), set(left)
    chosen = {nth: (number, sort) for number, sort in enumerate(sorts) if ways.get(number, sort.way) != LEFT
              for nth in sort.parts if nth not in out}  # fmt: skip
    if not chosen:
        raise BadInput("No part is chosen: choose at least one.")
    if len(job.pieces) + len(chosen) > MAX_PIECES:
        raise BadInput(
            f"The job would have {len(job.pieces) + len(chosen)} pieces: at most {MAX_PIECES} fit into one."
        )
    regions = [one.region for one in artwork.drawn]
    if close_under:
        regions = closed_under(regions, sorted(chosen))
    like = _likes(job, sorts, ways)
    first = len(job.shapes)
    for nth, drawn in enumerate(artwork.drawn):
        if nth in chosen:
            number, sort = chosen[nth]
            way = ways.get(number) or sort.way
            job = with_region(job, drawn.name, regions[nth], like=like.get(number), construct=way)
    new = {shape.id: chosen[nth] for shape, nth in zip(job.shapes[first:], sorted(chosen), strict=True)}
    job = _grouped(job, new)
    return bring_in(job, replace(artwork, drawn=()), usual("area").name) if lines and artwork.lines else job


def closed_under(regions: Sequence[shapely.Polygon], chosen: Sequence[int]) -> list[shapely.Polygon]:
    """Regions healed where chosen ones that come later, and so lie over them, made holes or notches."""
    found, mine = list(regions), np.array([regions[nth] for nth in chosen], dtype=object)
    lower, upper = shapely.STRtree(mine).query(mine, "dwithin", ROOM)
    for at, nth in enumerate(chosen):
        over = upper[(lower == at) & (upper > at)]
        if len(over):
            found[nth] = healed(regions[nth], shapely.union_all(mine[over]))
    return found


def _likes(job: Job, sorts: Sequence[Sort], ways: Mapping[int, str]) -> dict[int, Piece]:
    """What a piece of each sort that has a colour is made of; others take cloths in turn."""
    library = job.library
    colours = list(dict.fromkeys(one.colour for one in sorts if one.colour))
    cloths = {one: matching_cloths([one], library)[0] for one in colours}
    return {number: _like(job, library, sort, construction(ways.get(number) or sort.way), cloths)
            for number, sort in enumerate(sorts) if sort.colour}  # fmt: skip


def _like(job: Job, library: Library, sort: Sort, kind: Construction, cloths: Mapping[str, Cloth]) -> Piece:
    cloth = cloths[sort.colour]
    colour = cloth.colour if "cloth" in kind.materials else sort.colour
    thread = job.brief.thread if job.brief.thread != NEAREST else nearest_thread(colour, library).key
    return Piece("", "", "", kind.name, cloth.key, thread)


def _grouped(job: Job, new: Mapping[str, tuple[int, Sort]]) -> Job:
    """Letters of one sort as one group of shapes."""
    words: dict[int, list[str]] = {}
    for shape, (number, sort) in new.items():
        if sort.letters:
            words.setdefault(number, []).append(shape)
    for letters in words.values():
        job = grouped(job, letters, True) if len(letters) > 1 else job
    return job
