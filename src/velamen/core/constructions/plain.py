"""Plain constructions: what is sewn on whatever lies there, without a cloth, one operation after another."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from velamen.core.constructions.base import Construction, Ends, Family, Sample, Work
from velamen.core.geometry.region import Area
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.entering import loops_entered, paths_entered
from velamen.core.stitching.roles import declare
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.effects import Effect
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values

DECORATION = declare("decoration", "decoration")
OUTLINE = declare("outline", "outline")
BORDER = declare("border", "border")
GROUND = declare("ground", "ground")

Sewing = Callable[[Work, Values], tuple[str, Sequence[Strand]] | Sequence[Pass]]
"""The label and strands of an operation's one pass, or its passes."""
FAMILIES = {OUTLINE: Family.LINES, BORDER: Family.EDGES}


def nothing_hidden(work: Work, values: Values) -> Area | None:
    """What open stitching hides: nothing."""
    return None


def all_hidden(work: Work, values: Values) -> Area | None:
    """What close stitching over all of a shape hides."""
    return work.region


def entered(work: Work, ends: Ends, inset: float, sew: Callable[[Work], Sequence[Pass]]) -> Sequence[Pass]:
    """Passes of a piece, the last of which begins and ends where the piece asks, as far as its stitch can.

    inset: mm inside a boundary that a loop is sewn.
    """
    start, end = work.start, work.end
    if ends is Ends.NOWHERE or (start is None and end is None):
        return sew(work)
    passes = sew(work if ends is Ends.OWN else replace(work, start=end or start, end=None))
    if not passes:
        return passes
    last = passes[-1]
    if ends is Ends.LOOP and work.line is None:
        strands = loops_entered(last.strands, work.region, inset, start, end)
    else:
        turned = ends is Ends.PATH or work.line is not None
        strands = paths_entered(last.strands, work.region, start, end, turned)
    return [*passes[:-1], replace(last, strands=tuple(strands))]


def passes_of(role: str, sewing: Sewing, work: Work, values: Values) -> Sequence[Pass]:
    """The passes of an operation; none where there is nothing to sew."""
    found = sewing(work, values)
    if not isinstance(found, tuple):
        return found
    label, strands = found
    return [Pass(role, label, work.thread, work.piece, tuple(strands))] if strands else []


def plain(
    name: str, title: str, role: str, settings: tuple[Setting, ...], sewing: Sewing, *,
    then: Mapping[str, Sewing] | None = None, inset: Callable[[Values], float] = lambda values: 0.0,
    effects: Callable[[Work], tuple[Effect, ...]] = lambda work: (), ends: Ends = Ends.NOWHERE, **more: Any,
) -> Construction:  # fmt: skip
    """A construction that sews with one role, and then with others.

    then: what is sewn after it, by role; inset: mm inside a boundary that a loop is sewn; effects: what the first
    operation changes; more: as in Construction.
    """
    stitch = next((one.key for one in settings if one.measure == "ground_stitch"), "")
    follow = dict(then or {})

    def derive(work: Work, known: Mapping[str, Plain]) -> Mapping[str, Plain]:
        return {"ground_chosen": known[stitch]} if stitch in known else {}

    def stands_on(work: Work, asked: str, known: Mapping[str, Plain]) -> Area | None:
        return work.region if asked == role else None

    def first(work: Work, values: Values) -> Sequence[Pass]:
        return entered(work, ends, inset(values), lambda placed: passes_of(role, sewing, placed, values))

    def operations(work: Work, known: Mapping[str, Plain]) -> Sequence[Operation]:
        under = bool(around and around.first)
        found = [Operation(work.piece, work.name, role, work.region, role=role, fills=first, first=under,
                           effects=effects(work))]  # fmt: skip
        for each, sew in follow.items():
            found.append(Operation(work.piece, work.name, each, work.region, needs=(found[-1].part,), role=each,
                                   fills=partial(passes_of, each, sew), first=under))  # fmt: skip
        return found

    around = more.get("around")
    family = Family.GROUNDS if around else FAMILIES.get(role, Family.AREAS)
    shown = Sample.BODY if family is Family.EDGES else Sample.LINE if more.get("lines") else Sample.BLOB
    declared = {"family": family, "shown_on": shown, "derive": derive, "stands_on": stands_on, "ends": ends, **more}
    return Construction(name, title, settings, operations, **declared)
