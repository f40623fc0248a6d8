"""Appliqué: what is laid, cut and sewn, and what its rules may ask (handbook, section 5)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache

import shapely
from shapely import Polygon

from velamen.core.constructions.applique_settings import BITES, CLOSE, SETTINGS, SHAPING
from velamen.core.constructions.applique_steps import OFF, foam_under, steps
from velamen.core.constructions.base import LOOP, Construction, Work
from velamen.core.geometry.narrow import narrowest
from velamen.core.geometry.overlap import run_under
from velamen.core.geometry.region import band
from velamen.core.memo import Same
from velamen.core.setting import Plain
from velamen.core.timeline.layers import Area, Event, Lay, Sew, Trim
from velamen.core.values.value import plain_values

LAY_MARGIN = 10.0  # mm of cloth over the placement line before it is trimmed
USUAL_WIDTH, USUAL_SHARE = 3.0, 60.0  # of a cover, until its own values are known
USUAL_UNDER = 4.0  # mm (handbook, section 5: 3 to 5)


def derive(work: Work, known: Mapping[str, Plain]) -> dict[str, Plain]:
    """How far the finished cover reaches inside and outside the edge, mm; the narrowest part where bites ask."""
    kind = str(known.get("cover_kind", "satin"))
    found: dict[str, Plain] = {"cover_chosen": kind, "die": bool(work.die)}
    if kind in BITES:
        found["narrowest"] = narrowest(work.region)
        if "cover_bite" in known:
            found |= {"cover_inside": float(known["cover_bite"]) - OFF, "cover_outside": OFF}
    elif kind == "raw" and "cover_inset" in known:
        found |= {"cover_inside": float(known["cover_inset"]) + 0.2, "cover_outside": 0.0}
    elif kind == "none":  # nothing has to hide the tack-down
        found |= {"cover_inside": USUAL_WIDTH, "cover_outside": 0.0}
    elif "cover_width" in known and "cover_share" in known:
        width, share = float(known["cover_width"]), float(known["cover_share"]) / 100.0
        found |= {"cover_inside": width * (1.0 - share), "cover_outside": width * share}
    return found


def reach(known: Mapping[str, Plain]) -> float:
    """How far the finished cover lies outside the cloth."""
    kind = str(known["cover_kind"])
    if kind in CLOSE:
        return float(known["cover_width"]) * float(known["cover_share"]) / 100.0
    return OFF if kind in BITES else 0.0


def cut(work: Work, known: Mapping[str, Plain]) -> Area:
    """The cloth as it is cut: its shape, and what runs on under later cloth; a die cuts its own shape."""
    if work.die:
        return work.region
    return run_under(
        work.region, work.later, float(known.get("run_under", USUAL_UNDER)), bool(known.get("cut_back", True))
    )


def events(work: Work, known: Mapping[str, Plain]) -> list[Event]:
    """Placement, cloth (foam first), tack-down, trim unless pre-cut or left for later, cover."""
    precut, late, cloth = bool(known.get("precut", False)), known.get("trim_when") == "after", cut(work, known)
    laid = cloth if precut else _patch(Same(cloth))
    found: list[Event] = [Sew("placement", work.piece)]
    found += [Lay(layer) for layer in (foam_under(work, str(known.get("padding", "none")), laid),) if layer]
    found += [Lay(work.cloth.placed(laid, work.piece)), Sew("tack", work.piece)]
    found += [] if precut or late else [Trim(work.piece, cloth)]
    return [*found, Sew("cover", work.piece)]


def footprint(work: Work, role: str, known: Mapping[str, Plain]) -> Area | None:
    """The band of the cover; what the tack-down stands on is asked within the cloth."""
    if role == "cover":
        width = float(known.get("cover_width", USUAL_WIDTH))
        share = float(known.get("cover_share", USUAL_SHARE)) / 100.0
        return band(work.region, round(width * share, 3), round(width * (1.0 - share), 3))
    return work.region if role == "tack" else None


@lru_cache(maxsize=2048)
def _patch(region: Same[Polygon]) -> Polygon:
    """The piece of cloth as it is laid, before it is trimmed."""
    left, top, right, bottom = region.it.bounds
    return shapely.box(left - LAY_MARGIN, top - LAY_MARGIN, right + LAY_MARGIN, bottom + LAY_MARGIN)


CONSTRUCTION = Construction(
    "applique", "Appliqué", SETTINGS, derive, events, footprint, SHAPING,
    lambda work, values: steps(work, values, cut(work, plain_values(values))),
    reach=reach, cut=cut, ends=LOOP,
)  # fmt: skip
