"""Appliqué: cloth laid, held, cut and covered, and what its rules may ask (handbook, section 5)."""

from __future__ import annotations

from collections.abc import Mapping

from velamen.core.constructions.applique.cover import OFF
from velamen.core.constructions.applique.edge_proof import EDGE_COVER
from velamen.core.constructions.applique.findings import findings, precut, trimmed_now
from velamen.core.constructions.applique.operations import operations
from velamen.core.constructions.applique.settings import BITES, CLOSE, SETTINGS
from velamen.core.constructions.base import (
    SMALL,
    WIDE_STROKE,
    Construction,
    Ends,
    Family,
    FoundPart,
    Sample,
    SortedAs,
    Work,
)
from velamen.core.constructions.edge import outside
from velamen.core.geometry.narrow import narrowest
from velamen.core.geometry.region import Area, band
from velamen.core.job.shape import Shape
from velamen.core.setting import Plain

USUAL_WIDTH, USUAL_SHARE = 3.0, 60.0  # mm and % of a cover, until its own values are known
RAW_THREAD = 0.2  # mm that the bean of a raw edge reaches farther in than its line


def derive(work: Work, known: Mapping[str, Plain]) -> dict[str, Plain]:
    """How far the finished cover reaches inside and outside the edge, mm; the narrowest part where bites ask."""
    kind = str(known.get("cover_kind", "satin"))
    found: dict[str, Plain] = {"cover_chosen": kind, "die": bool(work.die)}
    if kind in BITES:
        found["narrowest"] = narrowest(work.region)
        if "cover_bite" in known:
            found |= {"cover_inside": float(known["cover_bite"]) - OFF, "cover_outside": OFF}
    elif kind == "raw" and "cover_inset" in known:
        found |= {"cover_inside": float(known["cover_inset"]) + RAW_THREAD, "cover_outside": 0.0}
    elif kind == "none":  # nothing has to hide the tack-down
        found |= {"cover_inside": USUAL_WIDTH, "cover_outside": 0.0}
    elif "cover_width" in known and "cover_share" in known:
        width, share = float(known["cover_width"]), float(known["cover_share"]) / 100.0
        found |= {"cover_inside": width * (1.0 - share), "cover_outside": width * share}
    return found


def beyond(known: Mapping[str, Plain]) -> float:
    """How far the finished cover lies outside the cloth."""
    kind = str(known["cover_kind"])
    if kind in CLOSE:
        return outside(known, "cover")
    return OFF if kind in BITES else 0.0


def pointed(known: Mapping[str, Plain]) -> bool:
    """Whether its cover is mitred or lapped."""
    return known["cover_kind"] == "satin" and known["cover_corner"] != "rounded"


def stands_on(work: Work, role: str, known: Mapping[str, Plain]) -> Area | None:
    """The band of the cover; what the tack-down stands on is asked within the cloth."""
    if role == "cover":
        width = float(known.get("cover_width", USUAL_WIDTH))
        share = float(known.get("cover_share", USUAL_SHARE)) / 100.0
        return band(work.region, round(width * share, 3), round(width * (1.0 - share), 3))
    return work.region if role == "tack" else None


def rigid(shape: Shape) -> str:
    """A die cuts one size."""
    return f"{shape.name!r} is cut with a die, so it keeps its size: free it from the die first." if shape.die else ""


def reads(part: FoundPart) -> Mapping[str, float | None] | None:
    """A cover found: as wide as it was, as dense as it should be."""
    return {"cover_width": part.width} if part.way == "cloth" and part.kind in ("satin", "zigzag") else None


CONSTRUCTION = Construction(
    "applique", "Appliqué", SETTINGS, operations, Family.CLOTH, default_for="area", derive=derive,
    materials=frozenset({"cloth", "foam"}), stands_on=stands_on, beyond=beyond, pointed=pointed, ends=Ends.LOOP,
    shown_on=Sample.BODY,
    shown_with={"cover_width": 2.4},
    proofs=(EDGE_COVER,), findings=findings, rigid=rigid, reads=reads,
    over_decoration={"shadow": True},
    sorted_as=SortedAs("Appliqué", lambda stroke, short: stroke >= WIDE_STROKE and short >= SMALL),
    ways={"notch_narrow": precut, "cutout_small": precut, "lay_not_flat": trimmed_now},
)  # fmt: skip
