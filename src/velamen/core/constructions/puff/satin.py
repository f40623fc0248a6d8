"""What is sewn of puff: columns in undivided satin, and before them caps where they leave the foam uncut."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import chain

import numpy as np
from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.constructions.base import Spot, Work
from velamen.core.constructions.column import COLUMN
from velamen.core.constructions.puff.settings import AS_FOUND, CAPPED, LOCALS
from velamen.core.constructions.under_satin import under_satin
from velamen.core.geometry.polyline import arc_lengths
from velamen.core.geometry.region import polygons_of
from velamen.core.job.document import BESIDE, local_at
from velamen.core.proofs.foam_tear import FoamEdge, foam_edge
from velamen.core.setting import Plain
from velamen.core.stitching.column import columns
from velamen.core.stitching.column_thread import Sewing
from velamen.core.stitching.drawn_rails import drawn_column
from velamen.core.stitching.fill import linked
from velamen.core.stitching.foam_caps import CAP, PERFORATION, Cut, foam_cap, moved, perforation, room_of
from velamen.core.stitching.roles import TIE
from velamen.core.stitching.split import EVEN
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

CUTTING = COLUMN, CAP  # roles of the zigzags that cut foam
RUNS = PERFORATION, TIE  # of what perforates it
SURE = (PERFORATION,)  # while it is not all sewn: ties go where strands are joined
ROUNDS = 2  # in which caps are put where foam stays uncut
ROW = 4.0  # mm across which ends are listed from top to bottom
WIDEST = 12.0  # mm that a machine sews in one stitch (handbook, section 10)


@dataclass(frozen=True)
class Ending:
    """A stretch of foam edge that the columns leave uncut, and what is asked for it."""

    line: Array
    own: Mapping[str, Plain]  # AS_FOUND or by hand
    by_hand: bool

    @property
    def at(self) -> Place:
        """Its middle."""
        x, y = self.line[len(self.line) // 2].round(2)
        return float(x), float(y)

    def cut(self, form: str) -> Cut:
        """How it is capped."""
        beyond, width, shift = (float(self.own[f"cap_{key}"]) for key in ("beyond", "width", "shift"))
        return Cut(form, beyond, width, shift)


def satin(work: Work, values: Values) -> list[Pass]:
    """Every stroke in undivided satin, caps before the columns that cover them."""
    strands = list(chain(*(_cut_columns(part, work, values) for part in polygons_of(work.region))))
    spacing = number(values, "puff_spacing")
    return [Pass(COLUMN, f"Puff {spacing:.2f}", work.thread, work.piece, tuple(strands))] if strands else []


def _columns(part: Polygon, work: Work, values: Values) -> list[Strand]:
    """The strokes alone, what no machine sews in one stitch divided along their middle."""
    asked = Sewing(
        COLUMN, number(values, "puff_spacing"), number(values, "puff_pull"), 0.0, "flat",
        choice(values, "puff_underlay"), EVEN, WIDEST,
    )  # fmt: skip
    if work.rails:
        return drawn_column((work.rails[0], work.rails[1]), asked)
    return columns(part, asked, work.directions, work.start)


def _endings(edge: FoamEdge, work: Work) -> list[Ending]:
    """The stretches that stay uncut, each with what was set for it by hand."""
    found = []
    for one in edge.ends:
        mine = local_at(work.local, one.at)
        own = {**AS_FOUND, **{key: LOCALS[key].read(value) for key, value in mine.own.items()}} if mine else AS_FOUND
        found.append(Ending(np.array(one.line), own, mine is not None))
    return found


def _cut_columns(region: Polygon, work: Work, values: Values) -> list[Strand]:
    """Columns, and before them caps and perforations at what they still leave uncut, in one thread inside the
    shape."""
    sewn = _columns(region, work, values)
    if not sewn:
        return sewn
    caps, settled = _caps(sewn, region, work, values)
    whole = _linked(caps, sewn, region)
    edge = foam_edge(whole, CUTTING, SURE)
    for _ in range(ROUNDS if values["puff_perforate"].value else 0):
        lines = [line for one in edge.uncut if not _among(line := np.array(one.line), settled)]
        if not lines:
            break
        room = room_of(edge.covered, region)
        caps += [perforation(line, room) for line in lines]
        whole = _linked(caps, sewn, region)
        edge = foam_edge(whole, CUTTING, SURE)
    return under_satin(whole, CUTTING, edge.covered)


def _caps(sewn: list[Strand], region: Polygon, work: Work, values: Values) -> tuple[list[Strand], list[Array]]:
    """Caps at what columns leave uncut, and at what caps leave; and the stretches that somebody has decided about."""
    found: list[Strand] = []
    settled: list[Array] = []
    form = choice(values, "puff_cap")
    for nth in range(ROUNDS if choice(values, "puff_ends") == CAPPED else 0):
        edge = foam_edge([*found, *sewn], CUTTING, SURE)
        room = room_of(edge.covered, region)
        endings = _endings(edge, work if nth == 0 else replace(work, local=()))
        endings = [one for one in endings if not _among(one.line, settled)]
        settled += [one.line for one in endings if one.by_hand]
        wanted = [one for one in endings if one.own["cap_on"]]
        found += [foam_cap(moved(edge.covered, one.line, one.cut(form)), room, one.cut(form)) for one in wanted]
        if not wanted:
            break
    return found, settled


def _linked(caps: Sequence[Strand], sewn: Sequence[Strand], region: Polygon) -> list[Strand]:
    """Caps, then columns, sewn on without a trim."""
    return linked([*_in_turn(caps, sewn[0].xy[0]), *sewn], region) if caps else list(sewn)


def _in_turn(caps: Sequence[Strand], goal: Array) -> list[Strand]:
    """Caps one beside the other, each begun at its nearer end; the last one near where the columns begin."""
    left, found = list(caps), list[Strand]()
    while left:
        turned = [each for one in left for each in (one, one.back())]
        best = int(np.argmin([np.linalg.norm(each.xy[-1] - goal) for each in turned]))
        found.insert(0, turned[best])
        goal = turned[best].xy[0]
        del left[best // 2]
    return found


def _among(line: Array, settled: Sequence[Array]) -> bool:
    """Whether a stretch is one, or part of one, that somebody has decided about."""
    middle = line[len(line) // 2]
    return any(float(np.linalg.norm(one - middle, axis=1).min()) <= BESIDE for one in settled)


def spots(work: Work, values: Values) -> list[Spot]:
    """The ends that get caps, in the order of reading, with what is set for each."""
    if choice(values, "puff_ends") != CAPPED:
        return []
    found = [one for part in polygons_of(work.region) if (sewn := _columns(part, work, values))
             for one in _endings(foam_edge(sewn, CUTTING), work)]  # fmt: skip
    found.sort(key=lambda one: (round(one.at[0] / ROW), one.at[1]))
    return [
        Spot(one.at, f"{float(arc_lengths(one.line)[-1]):.1f} mm", tuple((float(x), float(y)) for x, y in one.line),
             one.own, one.by_hand) for one in found
    ]  # fmt: skip
