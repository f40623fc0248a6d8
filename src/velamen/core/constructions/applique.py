"""Appliqué: placement, lay, tack-down, trim unless pre-cut, satin cover (handbook, section 5)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import shapely
from shapely import Polygon

from velamen.core.constructions.base import Construction, HandStep, Pass, Step, Work
from velamen.core.geometry.region import band
from velamen.core.layering import Area, Event, Lay, Layer, Sew, Trim
from velamen.core.matching.value import Values, choice, number, switch
from velamen.core.materials.records import UNDERLAYS
from velamen.core.same import Same
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.border import run_borders, satin_borders, zigzag_borders
from velamen.core.stitching.strand import Strand

LAY_SECONDS = 30.0
TRIM_SECONDS = 60.0
TRIM_SECONDS_PER_CM = 1.0
LAY_MARGIN = 10.0  # mm of cloth over the placement line before it is trimmed
USUAL_WIDTH, USUAL_SHARE = 3.0, 60.0  # of a cover, until its own values are known

SHAPING = frozenset({"precut", "padding"})

SETTINGS = (
    Setting(
        "precut", "Pre-cut cloth", "Cloth",
        "The cloth comes cut to shape, from a cutter or a die: nothing is trimmed in the hoop.",
        kind="switch", unit="",
    ),
    Setting(
        "padding", "Foam under it", "Cloth",
        "Foam laid under the cloth and cut with it, for a raised piece.", kind="choice", unit="",
        choices=(("none", "none"), ("foam_2", "2 mm"), ("foam_3", "3 mm")),
    ),
    Setting(
        "cover_width", "Width", "Cover",
        "Width of the finished satin over the cloth edge.", low=1.0, high=10.0, role="cover",
    ),
    Setting(
        "cover_share", "Share outside", "Cover",
        "How much of the width lies off the cloth.", unit="%", low=10, high=90, step=1, role="cover",
    ),
    Setting(
        "cover_spacing", "Spacing", "Cover",
        "Distance between neighbouring penetrations on one rail.", low=0.15, high=3.0, step=0.01,
        role="cover", measure="satin_spacing",
    ),
    Setting(
        "cover_pull", "Pull, per side", "Cover",
        "Added on either side, because the stitches draw the fabric in.", low=0.0, high=1.0, step=0.01,
        role="cover", measure="pull",
    ),
    Setting(
        "cover_underlay", "Underlay", "Cover",
        "Sewn first, under the satin.", kind="choice", unit="", choices=UNDERLAYS,
        role="cover", measure="underlay",
    ),
    Setting(
        "tack_kind", "Stitch", "Tack-down",
        "What holds the cloth before it is trimmed and covered.", kind="choice", unit="",
        choices=(("zigzag", "zigzag"), ("run", "run")),
    ),
    Setting(
        "tack_width", "Width", "Tack-down",
        "Width of the zigzag; its outer edge is the cloth edge.",
        low=0.6, high=4.0, needs=("tack_kind", "zigzag"), role="tack",
    ),
    Setting(
        "tack_spacing", "Spacing", "Tack-down",
        "Distance between neighbouring penetrations on one rail.",
        low=0.5, high=4.0, needs=("tack_kind", "zigzag"), role="tack",
    ),
    Setting(
        "tack_length", "Length", "Tack-down",
        "Stitch length of the run.", low=1.0, high=6.0, needs=("tack_kind", "run"), role="tack",
    ),
    Setting(
        "tack_inset", "Inset", "Tack-down",
        "How far inside the cloth edge the run lies.", low=0.2, high=4.0, needs=("tack_kind", "run"), role="tack",
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


def events(work: Work, known: Mapping[str, Plain]) -> list[Event]:
    """Placement, cloth (foam first), tack-down, trim unless pre-cut, cover."""
    precut = bool(known.get("precut", False))
    laid = work.region if precut else _patch(Same(work.region))
    found: list[Event] = [Sew("placement", work.piece)]
    found += [Lay(layer) for layer in (_foam(work, str(known.get("padding", "none")), laid),) if layer]
    found += [Lay(work.cloth.placed(laid, work.piece)), Sew("tack", work.piece)]
    found += [] if precut else [Trim(work.piece, work.region)]
    return [*found, Sew("cover", work.piece)]


def footprint(work: Work, role: str, known: Mapping[str, Plain]) -> Area | None:
    """The band of the cover; what the tack-down stands on is asked within the cloth."""
    if role == "cover":
        width = float(known.get("cover_width", USUAL_WIDTH))
        share = float(known.get("cover_share", USUAL_SHARE)) / 100.0
        return band(work.region, round(width * share, 3), round(width * (1.0 - share), 3))
    return work.region if role == "tack" else None


def steps(work: Work, values: Values) -> list[Step]:
    """Passes and hand steps of one appliqué piece."""
    foam = _foam(work, choice(values, "padding"), None)
    cloth = work.cloth.name
    built: list[Step] = [
        _pass(work, "placement", "Placement, run", run_borders(
            work.region, "placement", number(values, "placement_length"))),
        HandStep("lay", f"Lay {f'{foam.name} and ' if foam else ''}{cloth}", _lay_text(work, values, foam),
                 LAY_SECONDS * (2 if foam else 1), work.piece, work.cloth.key, foam),
        _tack(work, values),
    ]  # fmt: skip
    if not switch(values, "precut"):
        edge = float(shapely.length(work.region)) / 10.0
        text = f"Trim {cloth}{f' and {foam.name}' if foam else ''} for {work.name} close to the tack-down"
        if work.region.interiors:
            text += ", the cut-outs too"
        built.append(
            HandStep("trim", f"Trim {cloth}", text + ".", TRIM_SECONDS + TRIM_SECONDS_PER_CM * edge,
                     work.piece, work.cloth.key)
        )  # fmt: skip
    width, share = number(values, "cover_width"), number(values, "cover_share") / 100.0
    cover = satin_borders(
        work.region, "cover", width * share, width * (1.0 - share),
        number(values, "cover_spacing"), number(values, "cover_pull"), choice(values, "cover_underlay"),
    )  # fmt: skip
    built.append(_pass(work, "cover", f"Cover, satin {width:.1f}", cover))
    return built


@lru_cache(maxsize=2048)
def _patch(region: Same[Polygon]) -> Polygon:
    """The piece of cloth as it is laid, before it is trimmed."""
    left, top, right, bottom = region.it.bounds
    return shapely.box(left - LAY_MARGIN, top - LAY_MARGIN, right + LAY_MARGIN, bottom + LAY_MARGIN)


def _foam(work: Work, key: str, region: Area | None) -> Layer | None:
    foam = work.foams.get(key)
    return foam.placed(region, work.piece) if foam and foam.thickness else None


def _tack(work: Work, values: Values) -> Pass:
    if choice(values, "tack_kind") == "run":
        strands = run_borders(work.region, "tack", number(values, "tack_length"), number(values, "tack_inset"))
        return _pass(work, "tack", "Tack-down, run", strands)
    width = number(values, "tack_width")
    strands = zigzag_borders(work.region, "tack", 0.0, width, number(values, "tack_spacing"))
    return _pass(work, "tack", f"Tack-down, zigzag {width:.1f}", strands)


def _pass(work: Work, role: str, label: str, strands: list[Strand]) -> Pass:
    return Pass(role, label, work.thread, work.piece, tuple(strands))


def _lay_text(work: Work, values: Values, foam: Layer | None) -> str:
    cloth = work.cloth.name
    if foam:
        cloth = f"{foam.name} and over it {cloth}"
    if switch(values, "precut"):
        return f"Lay the pre-cut {cloth} for {work.name} exactly inside the placement line."
    return f"Lay {cloth} for {work.name}, right side up, at least 10 mm over the placement line all round."


CONSTRUCTION = Construction("applique", "Appliqué", SETTINGS, derive, events, footprint, SHAPING, steps)
