"""Plain constructions: one pass of one stitch, sewn on what lies there, without a cloth of its own."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from velamen.core.constructions.base import Construction, Pass, Step, Work
from velamen.core.layering import Area, Event, Sew
from velamen.core.matching.value import Values
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.strand import Strand

Sewing = Callable[[Work, Values], tuple[str, list[Strand]]]
"""The label of the one pass, and its strands."""

Steps = Callable[[Work, Values], list[Step]]


def nothing_hidden(work: Work, values: Values) -> Area | None:
    """The cover of open stitching: none."""
    return None


def all_hidden(work: Work, values: Values) -> Area | None:
    """The cover of close stitching over all of a shape."""
    return work.region


def plain(
    name: str, title: str, role: str, settings: tuple[Setting, ...], sewing: Sewing | Steps, *, lines: bool = False,
    cover: Callable[[Work, Values], Area | None] = nothing_hidden,
    ground: Callable[[Work, Mapping[str, Plain]], Area] | None = None,
    reach: Callable[[Mapping[str, Plain]], float] = lambda known: 0.0, proofs: frozenset[str] = frozenset(),
    under: bool = False,
) -> Construction:  # fmt: skip
    """A construction of one pass of a role, or of the passes that `sewing` gives; the rest as in Construction."""

    stitch = next((one.key for one in settings if one.measure == "ground_stitch"), "")

    def derive(work: Work, known: Mapping[str, Plain]) -> dict[str, Plain]:
        return {"ground_chosen": known[stitch]} if stitch in known else {}

    def events(work: Work, known: Mapping[str, Plain]) -> list[Event]:
        return [Sew(role, work.piece)]

    def footprint(work: Work, asked: str, known: Mapping[str, Plain]) -> Area | None:
        return work.region if asked == role else None

    def steps(work: Work, values: Values) -> list[Step]:
        sewn = sewing(work, values)
        if isinstance(sewn, list):
            return sewn
        label, strands = sewn
        return [Pass(role, label, work.thread, work.piece, tuple(strands))] if strands else []

    return Construction(
        name, title, settings, derive, events, footprint, frozenset(), steps, lays=False, proofs=proofs,
        family="Grounds" if ground else {"outline": "Lines", "border": "Edges"}.get(role, "Areas"), lines=lines,
        cover=cover, ground=ground, reach=reach, under=under,
    )  # fmt: skip
