"""What grounds share: how they are stitched, how far they reach, and where the sewing field cuts them off."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
import shapely

from velamen.core.constructions.base import Work
from velamen.core.geometry.even import even_ground
from velamen.core.geometry.region import Area, spot_in
from velamen.core.proofs.finding import Finding
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.open_ground import STITCHES, open_ground
from velamen.core.stitching.stagger import staggers
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.effects import Effect, Presses
from velamen.core.values.value import Values, choice, number

LEAST_OVER = 1.0  # mm² beyond the field that are told of
LEAST_MARGIN = 1.0  # mm of one that is offered


def stitch_settings(name: str, group: str) -> tuple[Setting, ...]:
    """What a ground is stitched in; name: first word of the keys."""
    return (
        Setting(f"{name}_stitch", "Stitch", group, "Light stitching that keeps the pile down.", kind="choice",
                unit="", choices=STITCHES, measure="ground_stitch"),
        Setting(f"{name}_spacing", "Spacing", group, "Between neighbouring rows; the size of a cross.", low=0.8,
                high=6.0, step=0.05, measure="ground_spacing"),
        Setting(f"{name}_length", "Length", group, "Of a stitch.", low=2.0, high=6.0, measure="ground_length"),
        Setting(f"{name}_angle", "Angle", group, "Of the rows, clockwise from the horizontal.", unit="°", low=-180,
                high=180, step=1, measure="row_angle"),
        Setting(f"{name}_pattern", "Pattern", group, "How penetrations of a lightened pattern lie.", kind="choice",
                unit="", choices=tuple((one.key, one.title.lower()) for one in staggers().values()),
                needs=(f"{name}_stitch", "pattern"), measure="ground_pattern", pictures="textures"),
    )  # fmt: skip


def round_settings(name: str, margin_help: str, high: float = 40.0) -> tuple[Setting, ...]:
    """How far a ground reaches, and how calm its outline is."""
    return (
        Setting(f"{name}_margin", "Margin", "Outline", margin_help, low=0.0, high=high, measure=f"{name}_margin"),
        Setting(f"{name}_gap", "Gaps closed", "Outline", "Gaps and holes up to this width are closed.", low=0.0,
                high=30.0, measure="ground_gap"),
        Setting(f"{name}_calm", "Calmness", "Outline", "Bumps and notches up to this size are smoothed away.",
                low=0.0, high=20.0, measure="ground_calm"),
    )  # fmt: skip


def round_ground(name: str, work: Work, known: Mapping[str, Plain]) -> Area:
    """The ground of a piece round its sources."""
    margin, gap, calm = (float(known[f"{name}_{key}"]) for key in ("margin", "gap", "calm"))
    return even_ground(work.sources, margin, gap, calm)


def cut_off(
    work: Work, what: str, wanted: Area, inner: Area, inside: float, key: str, margin: float
) -> list[Finding]:
    """That what a margin asks for ends at the sewing field, and the margin there is room for.

    wanted: what it asks for; inner: what it is measured from; inside: mm that it stays within the field; key: of
    the setting that the margin is.
    """
    assert work.field is not None
    room = shapely.buffer(work.field, -inside)
    over = shapely.difference(wanted, room)
    if over.area < LEAST_OVER:
        return []
    kept = float(shapely.distance(inner, room.exterior)) if shapely.covers(room, inner) else 0.0
    fits = float(np.floor(10.0 * kept)) / 10.0
    told = f"there is room for {fits:.1f}" if fits >= LEAST_MARGIN else "there is no room for one"
    return [Finding(
        "ground_cut_off", "warning", work.piece,
        f"{what} of {work.name} is cut off at the sewing field: its margin is {margin:.1f} mm, and on the nearest "
        f"side {told}. Take a larger hoop or a smaller margin.", spot_in(over),
        {key: fits} if fits >= LEAST_MARGIN else {}, f"Set margin {fits:g}" if fits >= LEAST_MARGIN else "",
    )]  # fmt: skip


def frozen_values(name: str) -> dict[str, Plain]:
    """Values of a ground whose outline has become a plain shape: it reaches no farther than that."""
    return {f"{name}_{key}": 0.0 for key in ("margin", "gap", "calm")}


def pressing(work: Work) -> tuple[Effect, ...]:
    """What light stitching over a ground changes: the pile there lies down."""
    return (Presses(work.region),)


def stitched(name: str, role: str, area: Area, work: Work, values: Values) -> tuple[str, list[Strand]]:
    """Label and strands of a ground by its settings."""
    stitch, spacing = choice(values, f"{name}_stitch"), number(values, f"{name}_spacing")
    strands = open_ground(
        area, role, stitch, spacing, number(values, f"{name}_length"),
        float(np.radians(number(values, f"{name}_angle"))), choice(values, f"{name}_pattern"), work.start,
    )  # fmt: skip
    return f"{dict(STITCHES)[stitch].capitalize()} {spacing:.1f}", strands
