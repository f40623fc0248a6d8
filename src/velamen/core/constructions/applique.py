"""Appliqué: placement, lay, tack-down, trim unless pre-cut, satin cover (handbook, section 5)."""

from __future__ import annotations

from collections.abc import Mapping

import shapely

from velamen.core.constructions.base import Construction, HandStep, Pass, Step, Work
from velamen.core.matching.settings import Plain, Setting, Values, choice, number, switch
from velamen.core.stitching.border import run_borders, satin_borders, zigzag_borders
from velamen.core.stitching.strand import Strand

LAY_SECONDS = 30.0
TRIM_SECONDS = 60.0
TRIM_SECONDS_PER_CM = 1.0

SETTINGS = (
    Setting(
        "precut", "Pre-cut cloth", "Cloth",
        "The cloth comes cut to shape, from a cutter or a die: nothing is trimmed in the hoop.",
        kind="switch", unit="",
    ),
    Setting(
        "cover_width", "Width", "Cover",
        "Width of the finished satin over the cloth edge.", low=1.0, high=10.0,
    ),
    Setting(
        "cover_share", "Share outside", "Cover",
        "How much of the width lies off the cloth.", unit="%", low=10, high=90, step=1,
    ),
    Setting(
        "cover_spacing", "Spacing", "Cover",
        "Distance between neighbouring penetrations on one rail.", low=0.2, high=3.0, step=0.01,
    ),
    Setting(
        "cover_pull", "Pull, per side", "Cover",
        "Added on either side, because the stitches draw the fabric in.", low=0.0, high=1.0, step=0.01,
    ),
    Setting(
        "cover_underlay", "Underlay", "Cover",
        "Sewn first, under the satin.", kind="choice", unit="",
        choices=(("none", "none"), ("centre_run", "centre run"), ("edge_run", "edge run")),
    ),
    Setting(
        "tack_kind", "Stitch", "Tack-down",
        "What holds the cloth before it is trimmed and covered.", kind="choice", unit="",
        choices=(("zigzag", "zigzag"), ("run", "run")),
    ),
    Setting(
        "tack_width", "Width", "Tack-down",
        "Width of the zigzag; its outer edge is the cloth edge.",
        low=0.6, high=4.0, needs=("tack_kind", "zigzag"),
    ),
    Setting(
        "tack_spacing", "Spacing", "Tack-down",
        "Distance between neighbouring penetrations on one rail.",
        low=0.5, high=4.0, needs=("tack_kind", "zigzag"),
    ),
    Setting(
        "tack_length", "Length", "Tack-down",
        "Stitch length of the run.", low=1.0, high=6.0, needs=("tack_kind", "run"),
    ),
    Setting(
        "tack_inset", "Inset", "Tack-down",
        "How far inside the cloth edge the run lies.", low=0.2, high=4.0, needs=("tack_kind", "run"),
    ),
    Setting(
        "placement_length", "Length", "Placement",
        "Stitch length of the line that shows where the cloth goes.", low=1.0, high=4.0,
    ),
)  # fmt: skip


def derive(known: Mapping[str, Plain]) -> dict[str, Plain]:
    """How far the finished cover reaches inside and outside the cloth edge, in mm."""
    if "cover_width" not in known or "cover_share" not in known:
        return {}
    width, share = float(known["cover_width"]), float(known["cover_share"]) / 100.0
    return {"cover_inside": width * (1.0 - share), "cover_outside": width * share}


def steps(work: Work, values: Values) -> list[Step]:
    """Passes and hand steps of one appliqué piece."""
    built: list[Step] = [
        _pass(work, "placement", "Placement, run", run_borders(
            work.region, "placement", number(values, "placement_length"))),
        HandStep(
            "lay", f"Lay {work.cloth_name}", _lay_text(work, values), LAY_SECONDS, work.piece, work.cloth
        ),
        _tack(work, values),
    ]  # fmt: skip
    if not switch(values, "precut"):
        edge = float(shapely.length(work.region)) / 10.0
        text = f"Trim {work.cloth_name} for {work.name} close to the tack-down"
        if work.region.interiors:
            text += ", the cut-outs too"
        built.append(
            HandStep("trim", f"Trim {work.cloth_name}", text + ".", TRIM_SECONDS + TRIM_SECONDS_PER_CM * edge,
                     work.piece, work.cloth)
        )  # fmt: skip
    width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
    cover = satin_borders(
        work.region, "cover", width * share, width * (1.0 - share),
        number(values, "cover_spacing"), number(values, "cover_pull"), choice(values, "cover_underlay"),
    )  # fmt: skip
    built.append(_pass(work, "cover", f"Cover, satin {width:.1f}", cover))
    return built


def _tack(work: Work, values: Values) -> Pass:
    if choice(values, "tack_kind") == "run":
        strands = run_borders(work.region, "tack", number(values, "tack_length"), number(values, "tack_inset"))
        return _pass(work, "tack", "Tack-down, run", strands)
    width = number(values, "tack_width")
    strands = zigzag_borders(work.region, "tack", 0.0, width, number(values, "tack_spacing"))
    return _pass(work, "tack", f"Tack-down, zigzag {width:.1f}", strands)


def _pass(work: Work, role: str, label: str, strands: list[Strand]) -> Pass:
    return Pass(role, label, work.thread, work.piece, tuple(strands))


def _lay_text(work: Work, values: Values) -> str:
    if switch(values, "precut"):
        return f"Lay the pre-cut {work.cloth_name} for {work.name} exactly inside the placement line."
    return f"Lay {work.cloth_name} for {work.name}, right side up, at least 10 mm over the placement line all round."


CONSTRUCTION = Construction("applique", "Appliqué", SETTINGS, derive, steps)
