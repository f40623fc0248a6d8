"""The cover of a cut edge: its kinds, each sewn round the cloth and left out where later cloth hides the edge."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

from velamen.core.arrays import Place
from velamen.core.constructions.applique.settings import BITES
from velamen.core.constructions.base import Work
from velamen.core.geometry.overlap import hidden_under
from velamen.core.geometry.region import Area
from velamen.core.memo import kept
from velamen.core.stitching.border import (
    SatinSewing,
    edge_borders,
    offset_outlines,
    run_borders,
    sampled,
    satin_borders,
    seen_parts,
)
from velamen.core.stitching.entering import loops_entered
from velamen.core.stitching.line import line_stitch
from velamen.core.stitching.roles import declare
from velamen.core.stitching.run import calm_places
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

COVER = declare("cover", "cover", broad=True)
RAW_EDGE = declare("raw_edge", "raw edge line")

OFF = 0.3  # mm that the edge run of a bitten cover lies off the cloth
LEAST_BITE = 1.2  # mm; a shorter one does not hold: a run is sewn instead
RUN_INSET = 0.8  # mm (handbook, section 5: a run set 0.8 inside)
RUN_LENGTH = 2.0  # mm of the double run that stands in for bites


class Edge(NamedTuple):
    """The edge that is covered."""

    cloth: Area  # as it is cut
    hidden: Area | None  # where later cloth hides it
    start: Place  # near which sewing begins


def cover(cloth: Area, work: Work, values: Values) -> list[Pass]:
    """The cover, entered and left where the piece asks."""
    found = cover_strands(work, values, cloth)
    if found is None:
        return []
    label, strands = found
    role = RAW_EDGE if choice(values, "cover_kind") == "raw" else COVER
    return [Pass(role, label, work.thread, work.piece, tuple(strands))]


def cover_strands(work: Work, values: Values, cloth: Area) -> tuple[str, list[Strand]] | None:
    """Label and strands of the cover, entered and left where the piece asks; None for no cover."""
    kind = choice(values, "cover_kind")
    if kind not in KINDS:
        return None
    edge = Edge(cloth, hidden_under(work.later), work.end or work.start or starts_apart(cloth)[0])
    label, strands = (_double_run if falls_back(values) else KINDS[kind])(edge, values)
    inset = number(values, "cover_inset") if kind == "raw" else 0.0
    return label, loops_entered(strands, cloth, inset, work.start, work.end)


def falls_back(values: Values) -> bool:
    """Whether a bitten cover has no room for its bites, so that a double run is sewn instead."""
    return choice(values, "cover_kind") in BITES and number(values, "cover_bite") < LEAST_BITE


@kept(1024, lasting=True)
def starts_apart(cloth: Area) -> list[Place]:
    """Where cover, tack-down and placement line begin, on calm stretches of the edge and well apart.

    Ties and overlaps of all three at one place would make a knot there.
    """
    return [(x, y) for x, y in calm_places(sampled(cloth).rings[0], 3).tolist()]


def _double_run(edge: Edge, values: Values) -> tuple[str, list[Strand]]:
    sewn: list[Strand] = []
    for line in offset_outlines(edge.cloth, min(RUN_INSET, number(values, "cover_bite"))):
        parts = seen_parts(line, edge.hidden)
        lines, closed = ([line], True) if parts is None else (parts, False)
        sewn += line_stitch(lines, closed, "double", COVER, RUN_LENGTH, start=edge.start)
    return "Cover, double run", sewn


def _raw(edge: Edge, values: Values) -> tuple[str, list[Strand]]:
    inset, length = number(values, "cover_inset"), number(values, "cover_length")
    strands = run_borders(edge.cloth, RAW_EDGE, length, inset, 3, edge.hidden, edge.start)
    return f"Raw edge, bean {inset:.1f} in", strands


def _bitten(stitch: str, words: str) -> Sew:
    def sew(edge: Edge, values: Values) -> tuple[str, list[Strand]]:
        bite, step = number(values, "cover_bite"), number(values, "cover_step")
        strands = edge_borders(edge.cloth, COVER, stitch, OFF, bite - OFF, step, "auto", edge.start, edge.hidden)
        return f"Cover, {words} {bite:.1f}", strands

    return sew


def sides(values: Values) -> tuple[float, float]:
    """How far a close cover is sewn off the cloth and on it, mm, its pull compensation counted."""
    width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
    pull = number(values, "cover_pull")
    return width * share + pull, width * (1.0 - share) + pull


def _overedge(edge: Edge, values: Values) -> tuple[str, list[Strand]]:
    outside, inside = sides(values)
    step = number(values, "cover_slant")
    strands = edge_borders(edge.cloth, COVER, "overedge", outside, inside, step, "auto", edge.start, edge.hidden)
    return f"Cover, overedge {number(values, 'cover_width'):.1f}", strands


def _satin(edge: Edge, values: Values) -> tuple[str, list[Strand]]:
    width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
    sewing = SatinSewing(
        width * share, width * (1.0 - share), number(values, "cover_spacing"), number(values, "cover_pull"),
        choice(values, "cover_underlay"), choice(values, "cover_corner"),
    )  # fmt: skip
    return f"Cover, satin {width:.1f}", satin_borders(edge.cloth, COVER, sewing, edge.start, edge.hidden)


Sew = Callable[[Edge, Values], tuple[str, list[Strand]]]
KINDS: dict[str, Sew] = {
    "satin": _satin, "estitch": _bitten("estitch", "E-stitch"), "blanket": _bitten("blanket", "blanket"),
    "overedge": _overedge, "raw": _raw,
}  # fmt: skip
