"""The cut line under satins of a stitch file: where cloth must end for them to cover its edge."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from velamen.core.errors import BadInput
from velamen.core.geometry.region import Area
from velamen.core.recovery.segments import Segment

JOINED = 0.3  # mm between satins that cover one edge together


def chosen(segments: Sequence[Segment], names: Sequence[str]) -> list[Segment]:
    """Segments by their names, s1 the first of a file. Raises BadInput for one that has no two sides."""
    out = []
    for name in names:
        number = int(name[1:]) if name[:1] == "s" and name[1:].isdecimal() and len(name) < 9 else 0
        if not 1 <= number <= len(segments):
            raise BadInput(f"There is no part {name[:20]!r}: segments.json has s1 to s{len(segments)}.")
        if segments[number - 1].area is None or segments[number - 1].rails is None:
            raise BadInput(f"Part {name} is a {segments[number - 1].kind}: a cut line lies under a satin or zigzag.")
        out.append(segments[number - 1])
    return out


def cut_line(segments: Sequence[Segment]) -> Area:
    """What a cutter cuts: out to the outer rail of satins, in to the inner rail of those round holes.

    Satins that meet are one; a satin that lies inside another goes round a hole of the cloth, one inside that round
    an island. Raises BadInput where none goes round anything.
    """
    sewn = shapely.union_all([one.area for one in segments])
    sewn = shapely.buffer(shapely.buffer(sewn, JOINED / 2), -JOINED / 2)
    rounds = sorted(
        (part for part in shapely.get_parts(sewn) if part.interiors), key=lambda part: -_filled(part).area
    )
    if not rounds:
        raise BadInput("These parts go round nothing: choose the satins that close round one cloth.")
    area: Area = shapely.Polygon()
    for nth, part in enumerate(rounds):
        island = sum(_filled(outer).contains(part) for outer in rounds[:nth]) % 2 == 0
        area = area.union(_filled(part)) if island else area.difference(_filled(part).difference(part))
    return area


def _filled(part: Area) -> Area:
    return shapely.Polygon(part.exterior)
