"""Basting: a long run round everything that holds base, stabilizer and topping together (handbook, section 7)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

import numpy as np
import shapely

from velamen.core.arrays import Array
from velamen.core.constructions.base import Around, Construction, Family, Sewn, Thread, Work
from velamen.core.constructions.ground import cut_off
from velamen.core.constructions.plain import passes_of
from velamen.core.geometry.even import even_ground
from velamen.core.geometry.region import Area, boundaries, clean_ring
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.roles import CODE, declare
from velamen.core.stitching.run import run_along, run_round
from velamen.core.stitching.strand import Strand, join
from velamen.core.timeline.operation import Does, Hand, Operation, When
from velamen.core.values.value import Values, choice, number, plain_values, switch

INSIDE = 1.0  # mm it stays within the sewing field
LOCK = 0.5  # mm of the two tiny lock stitches at either end, easily pulled out
PULL_SECONDS = 60.0  # ours
LEAST = 16.0  # mm² of room below which nothing is held
BASTING = declare("basting", "basting", dash="9 4")
COURSES = (("box", "box"), ("outline", "outline"))

SETTINGS = (
    Setting("basting_course", "Path", "Basting", "A box round everything, or a line that follows it.",
            kind="choice", unit="", choices=COURSES),
    Setting("basting_margin", "Margin", "Basting", "From the outermost stitches.", low=1.0, high=20.0),
    Setting("basting_length", "Length", "Basting", "Of a stitch.", low=3.0, high=10.0),
    Setting("basting_cross", "Centre lines", "Basting", "A cross through the middle, to lay the item by.",
            kind="switch", unit=""),
)  # fmt: skip


def ground(work: Work, known: Mapping[str, Plain]) -> Area:
    """The area that is basted round, within the sewing field."""
    if all(one.is_empty for one in work.sources):
        return shapely.MultiPolygon()
    area = wanted(work, known)
    if work.field is not None:
        area = shapely.intersection(area, shapely.buffer(work.field, -INSIDE))
    parts = [part for part in shapely.get_parts(area) if part.geom_type == "Polygon" and part.area > LEAST]
    return parts[0] if len(parts) == 1 else shapely.MultiPolygon(parts)


def wanted(work: Work, known: Mapping[str, Plain]) -> Area:
    """What its margin asks for, wherever the sewing field ends."""
    margin = float(known["basting_margin"])
    if str(known["basting_course"]) == "outline":
        area = even_ground(work.sources, margin, 4.0 * margin, 2.0 * margin)
        return shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(area)])
    boxes = [one.bounds for one in work.sources if not one.is_empty]
    low, high = np.min([box[:2] for box in boxes], axis=0), np.max([box[2:] for box in boxes], axis=0)
    return shapely.box(*(low - margin), *(high + margin))


def findings(sewn: Sewn) -> list[Finding]:
    """That it ends at the sewing field before its margin does, so that it may run over the design."""
    work, known = sewn.work, plain_values(sewn.values)
    if work.field is None or work.region.is_empty or work.marks != "none":
        return []
    inner = shapely.box(*shapely.total_bounds(np.array(work.sources, dtype=object)))
    key = "basting_margin"
    return cut_off(work, "The line", wanted(work, known), inner, INSIDE, key, float(known[key]))


def sewing(work: Work, values: Values) -> tuple[str, list[Strand]]:
    """A line round every part, and the centre lines."""
    length = number(values, "basting_length")
    lines = [run_round(clean_ring(ring), length, length) for ring in boundaries(work.region) if len(ring) > 2]
    if switch(values, "basting_cross") and lines:
        lines += _centre_lines(work.region, length)
    return f"Basting, {choice(values, 'basting_course')} {length:g}", [_locked(line) for line in lines]


def _centre_lines(area: Area, length: float) -> list[Array]:
    """Runs along both middle lines of an area, as far as they lie in it."""
    left, top, right, bottom = area.bounds
    x, y = (left + right) / 2, (top + bottom) / 2
    found = []
    for line in ([(left, y), (right, y)], [(x, top), (x, bottom)]):
        inside = shapely.get_parts(shapely.intersection(shapely.LineString(line), area))
        found += [run_along(shapely.get_coordinates(part), length) for part in inside if part.length > 2 * length]
    return found


def _locked(run: Array) -> Strand:
    """A run with two tiny stitches to and fro at either end."""
    ends = []
    for first, second in ((run[0], run[1]), (run[-1], run[-2])):
        way = second - first
        ends.append(np.stack([first, first + LOCK * way / np.linalg.norm(way), first]))
    tie, sew = CODE["tie"], CODE["basting"]
    return join([
        Strand(ends[0], np.full(3, tie, dtype=np.uint8)),
        Strand(run[1:], np.full(len(run) - 1, sew, dtype=np.uint8)),
        Strand(ends[1][1:], np.full(2, tie, dtype=np.uint8)),
    ])  # fmt: skip


def operations(work: Work, known: Mapping[str, Plain]) -> tuple[Operation, ...]:
    """Sewn first of all, pulled out at the end; nothing at all where the base would keep the marks."""
    if work.marks != "none":
        return ()
    does = Does(Hand.PULL_BASTING, "Pull the basting out", "Snip the basting every few stitches and pull it out.",
                PULL_SECONDS, "tweezers")  # fmt: skip
    return (
        Operation(work.piece, work.name, BASTING, work.region, role=BASTING, first=True,
                  fills=partial(passes_of, BASTING, sewing)),
        Operation(work.piece, work.name, "pull", does=does, needs=(BASTING,), when=When.AFTER),
    )  # fmt: skip


CONSTRUCTION = Construction(
    "basting", "Basting", SETTINGS, operations, Family.GROUNDS, findings=findings,
    shown_with={"basting_margin": 1.0, "basting_length": 3.0},
    around=Around(ground, first=True, everything=True, thread=Thread.BASE_ONCE, asked_by=("hold", "basting")),
)  # fmt: skip
