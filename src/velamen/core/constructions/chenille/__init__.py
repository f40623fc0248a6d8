"""Chenille: layers of cloth sewn in channels, slit between them, washed and brushed (handbook, section 11)."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from velamen.core.constructions.base import Construction, Family, Sample, Work, pass_of
from velamen.core.constructions.chenille.fluff import fluffed
from velamen.core.constructions.chenille.proof import CHANNELS, findings
from velamen.core.constructions.chenille.settings import LAYERS, SETTINGS, asked
from velamen.core.constructions.laid_cloth import (
    LAY_SECONDS,
    PLACEMENT,
    TACK,
    TRIM_SECONDS,
    TRIM_SECONDS_PER_CM,
    lies_over,
    trimming,
    untrimmed,
)
from velamen.core.setting import Plain
from velamen.core.stitching.border import run_borders
from velamen.core.stitching.channels import CHANNEL, INSET, channels
from velamen.core.timeline.effects import CutsBack, Lays, Slits
from velamen.core.timeline.layers import CLOTH, Layer
from velamen.core.timeline.operation import Cut, Decorated, Does, Hand, Operation, Share, When
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, number, plain_values

PLACE, HELD, HELD_IN = 2.5, 2.5, 0.8  # mm of a stitch of placement and tack-down, and of that inside the edge
TURNED = (
    "Layers over its cloth, sewn in channels: second tack-down, cover and their values are dropped, what is sewn on "
    "it stays on top"
)
PRESS_SECONDS, SLIT_SECONDS, BRUSH_SECONDS = 30.0, 240.0, 120.0  # ours


def layers_of(work: Work, known: Mapping[str, Plain]) -> list[Layer]:
    """The layers over the backing, from below."""
    count = round(float(known["chenille_layers"]))
    return [work.cloths.get(str(known[f"chenille_cloth_{nth}"]), work.cloth) for nth in LAYERS[:count]]


def operations(work: Work, known: Mapping[str, Plain]) -> tuple[Operation, ...]:
    """Backing placed, laid, held, trimmed and pressed; layers laid, sewn in channels; slit and trimmed out of the
    hoop."""
    if work.region.is_empty:
        return ()
    step = partial(Operation, work.piece, work.name)
    sheet, region, backing = untrimmed(work.region), work.region, work.cloth
    over = layers_of(work, known)
    names = list(dict.fromkeys(one.name for one in over))
    text = f"Lay {backing.name} for {{names}}, fused to web, right side up, over the placement line."
    lay = Does(Hand.LAY, f"Lay {backing.name}", text, LAY_SECONDS)
    text = "Press the backing of {names}, so that its web holds."
    press = Does(Hand.PRESS, "Press the backing", text, PRESS_SECONDS, "iron")
    listed = ", ".join(one.name for one in over)
    text = (
        f"Lay {len(over)} layers over {{names}}, right side up, 10 mm over the edge all round; from below: {listed}."
    )
    more = Does(Hand.LAY, f"Lay {len(over)} layers", text, LAY_SECONDS * len(over))
    return (
        step(PLACEMENT, region, role=PLACEMENT, fills=_placement),
        step("lay", region, (PLACEMENT,), (Lays((backing.placed(sheet, work.piece),)),), does=lay,
             share=Share(backing.key), guards=(lies_over(work),), cut=Cut(region, backing.key)),
        step(TACK, region, ("lay",), role=TACK, fills=_tack),
        trimming(work, region, TACK, f"Trim {backing.name} for {{names}} roughly to the line that holds it"),
        step("press", region, ("trim",), does=press, share=Share("press")),
        step("layers", region, ("press",), (Lays(tuple(one.placed(sheet, work.piece) for one in over)),), does=more,
             share=Share(tuple(names))),
        step(CHANNEL, region, ("layers",), role=CHANNEL, fills=_channels, decorated=Decorated.AFTER),
        *_finished(work),
    )  # fmt: skip


def _finished(work: Work) -> tuple[Operation, ...]:
    """What hands do out of the hoop."""
    step, region = partial(Operation, work.piece, work.name), work.region
    slit = Does(Hand.SLIT, "Slit the channels", "Slit {names} in the middle of every channel, all layers but the "
                "lowest.", SLIT_SECONDS, "slitting scissors")  # fmt: skip
    edge = float(region.length) / 10.0
    trim = Does(Hand.TRIM, "Trim the layers", "Trim the layers of {names} to the edge of the backing.",
                TRIM_SECONDS + TRIM_SECONDS_PER_CM * edge, "scissors")  # fmt: skip
    brush = Does(Hand.BRUSH, "Wash and brush", "Wash {names}, dry it and brush it up.", BRUSH_SECONDS, "brush")
    cut = region.buffer(-INSET)
    return (
        step("slit", region, (CHANNEL,), (Slits(work.piece, CLOTH, cut),), does=slit, when=When.AFTER,
             share=Share("slit")),
        step("edge", region, ("slit",), (CutsBack(work.piece, region),), does=trim, when=When.AFTER,
             share=Share("edge")),
        step("brush", region, ("edge",), does=brush, when=When.AFTER, share=Share("brush")),
    )  # fmt: skip


def _placement(work: Work, values: Values) -> list[Pass]:
    return pass_of(work, PLACEMENT, "Placement, run", run_borders(work.region, PLACEMENT, PLACE))


def _tack(work: Work, values: Values) -> list[Pass]:
    return pass_of(work, TACK, "Tack-down, run", run_borders(work.region, TACK, HELD, HELD_IN))


def _channels(work: Work, values: Values) -> list[Pass]:
    sewn = channels(work.region, asked(plain_values(values)), work.decorated)
    return pass_of(work, CHANNEL, f"Channels {number(values, 'channel_spacing'):.1f}", sewn)


CONSTRUCTION = Construction(
    "chenille", "Chenille", SETTINGS, operations, Family.CLOTH, materials=frozenset({"cloth"}), shown_on=Sample.BODY,
    shown_with={"channel_spacing": 5.0}, proofs=(CHANNELS,), findings=findings,
    of_cloth=("Make it chenille", TURNED), minds_decoration=True, fluffed=fluffed,
    tools=frozenset({"slitting_scissors"}),
)  # fmt: skip
