"""What is done for one appliqué piece, in order (handbook, section 5)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import NamedTuple

from velamen.core.constructions.applique.cover import COVER, RAW_EDGE, cover
from velamen.core.constructions.applique.hold import placement, second_tack, tack
from velamen.core.constructions.base import Work
from velamen.core.constructions.laid_cloth import (
    LAY_SECONDS,
    PLACEMENT,
    SECOND_TACK,
    TACK,
    lies_over,
    tidying,
    trimming,
    untrimmed,
)
from velamen.core.geometry.overlap import run_under
from velamen.core.geometry.region import Area
from velamen.core.setting import Plain
from velamen.core.timeline.effects import Lays
from velamen.core.timeline.layers import Layer
from velamen.core.timeline.operation import Cut, Decorated, Does, Fill, Hand, Operation, Share, When


class Laid(NamedTuple):
    """How the cloth of a piece comes, out of its early values."""

    cloth: Area  # as it is cut
    foam: Layer | None  # laid under it
    precut: bool
    late: bool  # trimmed when all is sewn
    shadow: bool  # laid over its decoration
    fusible: bool
    cover: str
    second: str
    tack: str
    line: bool  # shows where it goes


def operations(work: Work, known: Mapping[str, Plain]) -> tuple[Operation, ...]:
    """Placement, cloth (foam under it), tack-down, trim unless pre-cut, second tack-down, cover; a late trim last."""
    laid = laid_of(work, known)
    found: list[Operation] = []
    if laid.line:
        held = Decorated.AFTER if laid.shadow else Decorated.NO
        found.append(_sewn(work, PLACEMENT, partial(placement, laid.cloth), decorated=held))
    on_top = Decorated.NO if laid.shadow else Decorated.AFTER
    untacked = on_top if laid.tack == "none" else Decorated.NO
    found.append(_lay(work, laid, Decorated.BEFORE if laid.shadow else untacked))
    if laid.tack != "none":
        found.append(_sewn(work, TACK, partial(tack, laid.cloth), "lay", on_top))
    if not laid.precut and not laid.late:
        found.append(_trim(work, laid, found[-1].part))
    if laid.second != "none":
        found.append(_sewn(work, SECOND_TACK, partial(second_tack, laid.cloth), found[-1].part))
        found.append(tidying(work))
    if laid.cover != "none":
        role = RAW_EDGE if laid.cover == "raw" else COVER
        closes = Decorated.NO if laid.shadow else Decorated.BEFORE
        found.append(_sewn(work, role, partial(cover, laid.cloth), found[-1].part, closes))
    if not laid.precut and laid.late:
        found.append(_trim(work, laid, found[-1].part))
    return tuple(found)


def laid_of(work: Work, known: Mapping[str, Plain]) -> Laid:
    """How the cloth comes."""
    foam = work.foams.get(str(known["padding"]))
    return Laid(
        cut(work, known), foam if foam and foam.thickness else None, bool(known["precut"]),
        known["trim_when"] == "after", bool(known["shadow"]), bool(known["fusible"]), str(known["cover_kind"]),
        str(known["second_tack"]), str(known["tack_kind"]), bool(known["placement_line"]),
    )  # fmt: skip


def cut(work: Work, known: Mapping[str, Plain]) -> Area:
    """The cloth as it is cut: its shape, and what runs on under later cloth; a die cuts its own shape."""
    if work.die:
        return work.region
    return run_under(work.region, work.later, float(known["run_under"]), bool(known["cut_back"]))


def _sewn(work: Work, role: str, fill: Fill, needs: str = "", decorated: Decorated = Decorated.NO) -> Operation:
    return Operation(
        work.piece, work.name, role, work.region, (needs,) if needs else (), role=role, fills=fill,
        decorated=decorated, stands_for=COVER if role == RAW_EDGE else "",
    )  # fmt: skip


def _lay(work: Work, laid: Laid, decorated: Decorated) -> Operation:
    region = laid.cloth if laid.precut else untrimmed(laid.cloth)
    layers = [one.placed(region, work.piece) for one in (laid.foam, work.cloth) if one is not None]
    name = " and ".join(one.name for one in layers)
    does = Does(Hand.LAY, f"Lay {name}", _lay_text(work, laid), LAY_SECONDS * len(layers))
    return Operation(
        work.piece, work.name, "lay", work.region, (PLACEMENT,) if laid.line else (), (Lays(tuple(layers)),),
        does=does, share=Share((work.cloth.key, laid.foam.key if laid.foam else "")), decorated=decorated,
        guards=(lies_over(work),),
        cut=Cut(laid.cloth, work.cloth.key, laid.fusible),
    )  # fmt: skip


def _lay_text(work: Work, laid: Laid) -> str:
    cloth = f"{laid.foam.name} and over it {work.cloth.name}" if laid.foam else work.cloth.name
    fused = ", web down, and press it" if laid.fusible else ""
    if laid.precut:
        where = "exactly inside the placement line" if laid.line else "exactly in its place, by the template"
        return f"Lay the pre-cut {cloth} for {{names}} {where}{fused}."
    past = "the placement line" if laid.line else "its outline, by the template,"
    return f"Lay {cloth} for {{names}}, right side up, at least 10 mm over {past} all round{fused}."


def _trim(work: Work, laid: Laid, needs: str) -> Operation:
    name = work.cloth.name + (f" and {laid.foam.name}" if laid.foam else "")
    along = "along the outline, by the template" if laid.tack == "none" else "close to the tack-down"
    text = f"Trim {name} for {{names}} {along}"
    if laid.late:
        margin = "" if laid.cover == "raw" else ", outside the cover"
        text = f"When all is sewn, trim {name} for {{names}} along the outline{margin}"
    return trimming(work, laid.cloth, needs, text, When.LATE if laid.late else When.SEWING)
