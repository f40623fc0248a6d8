"""Appliqué: its passes and hand steps in layering order (handbook, section 5)."""

from __future__ import annotations

from functools import lru_cache

import shapely

from velamen.core.constructions.applique_settings import BITES
from velamen.core.constructions.base import HandStep, Pass, Step, Work, hand_step
from velamen.core.geometry.overlap import hidden_under
from velamen.core.memo import Same
from velamen.core.stitching.border import (
    edge_borders,
    offset_outlines,
    run_borders,
    sampled,
    satin_borders,
    seen_parts,
    zigzag_borders,
)
from velamen.core.stitching.entering import Place, loops_entered
from velamen.core.stitching.line import line_stitch
from velamen.core.stitching.run import calm_places
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.layers import Area, Layer
from velamen.core.values.value import Values, choice, number, switch

LAY_SECONDS = 30.0
TRIM_SECONDS = 60.0
TRIM_SECONDS_PER_CM = 1.0
TIDY_SECONDS = 30.0  # ours: a look all round and a few snips
OFF = 0.3  # mm that the edge run of a bitten cover lies off the cloth
LEAST_BITE = 1.2  # mm; a shorter one does not hold: a run is sewn instead
RUN_INSET = 0.8  # mm (handbook, section 5: a run set 0.8 inside)
SECOND_WIDTH, SECOND_SPACING = 1.5, 2.0  # mm of a second tack-down's zigzag
LINES = {"run": 1, "double_run": 2}


def steps(work: Work, values: Values, cloth: Area) -> list[Step]:
    """Passes and hand steps of one appliqué piece; cloth: its outline as it is cut."""
    foam = foam_under(work, choice(values, "padding"), None)
    name, starts = work.cloth.name, starts_apart(cloth)
    late = choice(values, "trim_when") == "after"
    built: list[Step] = [
        _pass(work, "placement", "Placement, run", run_borders(
            cloth, "placement", number(values, "placement_length"), start=starts[2])),
        hand_step("lay", f"Lay {f'{foam.name} and ' if foam else ''}{name}", _lay_text(work, values, foam),
                  LAY_SECONDS * (2 if foam else 1), work, foam),
        _tack(work, values, cloth, starts[1]),
    ]  # fmt: skip
    trim = None if switch(values, "precut") else _trim(work, values, cloth, foam, late)
    if trim and not late:
        built.append(trim)
    second = choice(values, "second_tack")
    if second != "none":
        built += _second(work, second, cloth)
    cover = cover_strands(work, values, cloth)
    if cover:
        label, strands = cover
        built += [_pass(work, "raw_edge" if choice(values, "cover_kind") == "raw" else "cover", label, strands)]
    if trim and late:
        built.append(trim)
    return built


def starts_apart(cloth: Area) -> list[Place]:
    """Where cover, tack-down and placement line begin, on calm stretches of the edge and well apart.

    Ties and overlaps of all three at one place would make a knot there.
    """
    return _starts_apart(Same(cloth))


@lru_cache(maxsize=1024)
def _starts_apart(cloth: Same[Area]) -> list[Place]:
    return [(x, y) for x, y in calm_places(sampled(cloth.it).rings[0], 3).tolist()]


def foam_under(work: Work, key: str, region: Area | None) -> Layer | None:
    """The foam laid under a piece, in a region, None for none."""
    foam = work.foams.get(key)
    return foam.placed(region, work.piece) if foam and foam.thickness else None


def falls_back(values: Values) -> bool:
    """Whether a bitten cover has no room for its bites, so that a double run is sewn instead."""
    return choice(values, "cover_kind") in BITES and number(values, "cover_bite") < LEAST_BITE


def cover_strands(work: Work, values: Values, cloth: Area) -> tuple[str, list[Strand]] | None:
    """Label and strands of the cover, entered and left where the piece asks; None for no cover."""
    found = _cover(work, values, cloth, work.end or work.start or starts_apart(cloth)[0])
    if found is None:
        return None
    label, strands = found
    inset = number(values, "cover_inset") if choice(values, "cover_kind") == "raw" else 0.0
    return label, loops_entered(strands, cloth, inset, work.start, work.end)


def _cover(work: Work, values: Values, cloth: Area, start: Place) -> tuple[str, list[Strand]] | None:
    """The cover, left out where later cloth hides the edge, begun nearest to a place."""
    kind, hidden = choice(values, "cover_kind"), hidden_under(work.later)
    if kind == "none":
        return None
    if falls_back(values):
        sewn: list[Strand] = []
        for line in offset_outlines(cloth, min(RUN_INSET, number(values, "cover_bite"))):
            parts = seen_parts(line, hidden)
            lines, closed = ([line], True) if parts is None else (parts, False)
            sewn += line_stitch(lines, closed, "double", "cover", 2.0, start=start)
        return "Cover, double run", sewn
    if kind == "raw":
        inset, length = number(values, "cover_inset"), number(values, "cover_length")
        return f"Raw edge, bean {inset:.1f} in", run_borders(cloth, "raw_edge", length, inset, 3, hidden, start)
    if kind in BITES:
        bite = number(values, "cover_bite")
        shown = "E-stitch" if kind == "estitch" else "blanket"
        return f"Cover, {shown} {bite:.1f}", edge_borders(
            cloth, "cover", kind, OFF, bite - OFF, number(values, "cover_step"), "auto", start, hidden)  # fmt: skip
    width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
    outside, inside, pull = width * share, width * (1.0 - share), number(values, "cover_pull")
    if kind == "overedge":
        return f"Cover, overedge {width:.1f}", edge_borders(
            cloth, "cover", kind, outside + pull, inside + pull, number(values, "cover_slant"), "auto", start, hidden
        )
    return f"Cover, satin {width:.1f}", satin_borders(
        cloth, "cover", outside, inside, number(values, "cover_spacing"), pull,
        choice(values, "cover_underlay"), start=start, hidden=hidden,
    )  # fmt: skip


def _tack(work: Work, values: Values, cloth: Area, start: Place) -> Pass:
    kind = choice(values, "tack_kind")
    if kind in LINES:
        lines = offset_outlines(cloth, number(values, "tack_inset"))
        stitch = "run" if kind == "run" else "double"
        strands = line_stitch(lines, True, stitch, "tack", number(values, "tack_length"), start=start)
        return _pass(work, "tack", f"Tack-down, {'double run' if kind == 'double_run' else 'run'}", strands)
    width, spacing = number(values, "tack_width"), number(values, "tack_spacing")
    if kind == "estitch":
        strands = edge_borders(cloth, "tack", "estitch", 0.0, width, spacing, "auto", start)
        return _pass(work, "tack", f"Tack-down, E-stitch {width:.1f}", strands)
    strands = zigzag_borders(cloth, "tack", 0.0, width, spacing, start=start)
    return _pass(work, "tack", f"Tack-down, zigzag {width:.1f}", strands)


def _second(work: Work, kind: str, cloth: Area) -> list[Step]:
    """A second tack-down over the trimmed edge, and the stop that follows it."""
    if kind == "zigzag":
        strands = zigzag_borders(cloth, "second_tack", SECOND_WIDTH / 3, 2 * SECOND_WIDTH / 3, SECOND_SPACING)
    else:
        strands = run_borders(cloth, "second_tack", 2.5, 0.5)
    text = "Tidy {names}: snip frays and thread ends along the edge."
    tidy = hand_step("tidy", f"Tidy {work.cloth.name}", text, TIDY_SECONDS, work)
    return [_pass(work, "second_tack", f"Second tack-down, {kind}", strands), tidy]


def _trim(work: Work, values: Values, cloth: Area, foam: Layer | None, late: bool) -> HandStep:
    edge = float(shapely.length(cloth)) / 10.0
    name = work.cloth.name + (f" and {foam.name}" if foam else "")
    text = f"Trim {name} for {{names}} close to the tack-down"
    if late:
        margin = "" if choice(values, "cover_kind") == "raw" else ", outside the cover"
        text = f"When all is sewn, trim {name} for {{names}} along the outline{margin}"
    if cloth.interiors:
        text += ", the cut-outs too"
    seconds = TRIM_SECONDS + TRIM_SECONDS_PER_CM * edge
    return hand_step("trim", f"Trim {work.cloth.name}", text + ".", seconds, work, late=late)


def _pass(work: Work, role: str, label: str, strands: list[Strand]) -> Pass:
    return Pass(role, label, work.thread, work.piece, tuple(strands))


def _lay_text(work: Work, values: Values, foam: Layer | None) -> str:
    cloth = work.cloth.name
    if foam:
        cloth = f"{foam.name} and over it {cloth}"
    fused = ", web down, and press it" if switch(values, "fusible") else ""
    if switch(values, "precut"):
        return f"Lay the pre-cut {cloth} for {{names}} exactly inside the placement line{fused}."
    return f"Lay {cloth} for {{names}}, right side up, at least 10 mm over the placement line all round{fused}."
