"""Plain constructions: one pass of one stitch, sewn on what lies there, without a cloth of its own."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace

from velamen.core.constructions.base import LOOP, OWN, PATH, Construction, Pass, Step, Work
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.entering import loops_entered, paths_entered
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.layers import Area, Event, Sew
from velamen.core.values.value import Values

Sewing = Callable[[Work, Values], tuple[str, list[Strand]]]
"""The label of the one pass, and its strands."""

Steps = Callable[[Work, Values], list[Step]]


def nothing_hidden(work: Work, values: Values) -> Area | None:
    """The cover of open stitching: none."""
    return None


def all_hidden(work: Work, values: Values) -> Area | None:
    """The cover of close stitching over all of a shape."""
    return work.region


def entered(work: Work, ends: str, inset: float, sew: Callable[[Work], list[Step]]) -> list[Step]:
    """Steps of a piece, the last pass of which begins and ends where the piece asks, as far as its stitch can.

    ends: as in Construction; inset: mm inside a boundary that a loop is sewn.
    """
    start, end = work.start, work.end
    if not ends or (start is None and end is None):
        return sew(work)
    steps = sew(work if ends == OWN else replace(work, start=end or start, end=None))
    if not steps or not isinstance(steps[-1], Pass):
        return steps
    if ends == LOOP and work.line is None:
        strands = loops_entered(steps[-1].strands, work.region, inset, start, end)
    else:
        turned = ends == PATH or work.line is not None
        strands = paths_entered(steps[-1].strands, work.region, start, end, turned)
    return [*steps[:-1], replace(steps[-1], strands=tuple(strands))]


def plain(
    name: str, title: str, role: str, settings: tuple[Setting, ...], sewing: Sewing | Steps, *, lines: bool = False,
    cover: Callable[[Work, Values], Area | None] = nothing_hidden,
    ground: Callable[[Work, Mapping[str, Plain]], Area] | None = None,
    reach: Callable[[Mapping[str, Plain]], float] = lambda known: 0.0, proofs: frozenset[str] = frozenset(),
    under: bool = False, ends: str = "",
    inset: Callable[[Values], float] = lambda values: 0.0,
) -> Construction:  # fmt: skip
    """A construction of one pass of a role, or of the passes that `sewing` gives; the rest as in Construction.

    inset: mm inside a boundary that a loop is sewn.
    """

    stitch = next((one.key for one in settings if one.measure == "ground_stitch"), "")

    def derive(work: Work, known: Mapping[str, Plain]) -> dict[str, Plain]:
        return {"ground_chosen": known[stitch]} if stitch in known else {}

    def events(work: Work, known: Mapping[str, Plain]) -> list[Event]:
        return [Sew(role, work.piece)]

    def footprint(work: Work, asked: str, known: Mapping[str, Plain]) -> Area | None:
        return work.region if asked == role else None

    def sewn(work: Work, values: Values) -> list[Step]:
        found = sewing(work, values)
        if isinstance(found, list):
            return found
        label, strands = found
        return [Pass(role, label, work.thread, work.piece, tuple(strands))] if strands else []

    def steps(work: Work, values: Values) -> list[Step]:
        return entered(work, ends, inset(values), lambda placed: sewn(placed, values))

    return Construction(
        name, title, settings, derive, events, footprint, frozenset(), steps, lays=False, proofs=proofs,
        family="Grounds" if ground else {"outline": "Lines", "border": "Edges"}.get(role, "Areas"), lines=lines,
        cover=cover, ground=ground, reach=reach, under=under, ends=ends,
    )  # fmt: skip
