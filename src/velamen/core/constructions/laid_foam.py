"""Laid foam: a sheet that stays and shows, held by open stitching, perforated and torn off round it (section 10)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
import shapely

from velamen.core.constructions.base import Construction, Family, Sample, Sewn, Work, pass_of
from velamen.core.constructions.foam_proof import foam_proof
from velamen.core.constructions.foam_steps import FOAM_TACK, foam_of, foam_settings, laying, tearing
from velamen.core.constructions.laid_cloth import PLACEMENT
from velamen.core.constructions.plain import DECORATION
from velamen.core.geometry.region import Area
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.foam_tear import CUT, FoamTear, prove_perforated
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.border import run_borders
from velamen.core.stitching.foam_caps import PERFORATION
from velamen.core.stitching.open_ground import open_ground
from velamen.core.stitching.open_rings import open_rings
from velamen.core.stitching.roles import CODE, TIE
from velamen.core.stitching.strand import Strand, short_enough
from velamen.core.timeline.operation import Fill, Operation
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values, choice, number

PLACE, HOLD, HOLD_INSET = 2.5, 4.0, 1.5  # mm of a stitch of placement and loose hold, and of that inside the edge
ROWS_LENGTH, KEPT_IN = 4.0, 3.0  # mm of a stitch, and that open stitching keeps from the edge
NODED = 1e-4  # mm of the grid on which holes are joined to faces, far below what a needle places
HELD = (("rings", "open rings"), ("rows", "open rows"), ("none", "the loose hold alone"))

SETTINGS = (
    *foam_settings("laid_foam", "Foam"),
    Setting("laid_foam_hold", "Held by", "Hold", "Stitching so open that the foam shows through it.", kind="choice",
            unit="", choices=HELD, early=True),
    Setting("laid_foam_spacing", "Spacing", "Hold", "Between its rings or rows.", low=1.5, high=12.0, step=0.1,
            needs=("laid_foam_hold", "rings|rows")),
    Setting("laid_foam_angle", "Angle", "Hold", "Of its rows.", unit="°", low=-180, high=180, step=1,
            needs=("laid_foam_hold", "rows")),
    Setting("laid_foam_perforation", "Perforation", "Edge", "Between needle points of the run along which the foam "
            "is torn.", low=0.5, high=2.0, step=0.1),
)  # fmt: skip


def operations(work: Work, known: Mapping[str, Plain]) -> Sequence[Operation]:
    """Placed, laid, loosely held, stitched openly, perforated, torn off outside."""
    foam = foam_of(work, known, "laid_foam")
    if work.region.is_empty:
        return ()
    steps: list[Operation] = []

    def sewn(role: str, fills: Fill) -> None:
        needs = (steps[-1].part,) if steps else ()
        steps.append(Operation(work.piece, work.name, role, work.region, needs, role=role, fills=fills))

    if foam is not None:
        sewn(PLACEMENT, _placement)
        steps.append(laying(work, foam, "tear", (PLACEMENT,), hold="hold it flat over the placement line"))
        sewn(FOAM_TACK, _hold)
    if choice_of(known) != "none":
        sewn(DECORATION, _open)
    sewn(PERFORATION, _perforation)
    if foam is not None:
        steps.append(tearing(work, foam, work.region, (PERFORATION,), stays=True))
    return steps


def choice_of(known: Mapping[str, Plain]) -> str:
    """How the foam is held."""
    return str(known["laid_foam_hold"])


def _placement(work: Work, values: Values) -> list[Pass]:
    return pass_of(work, PLACEMENT, "Placement, run", run_borders(work.region, PLACEMENT, PLACE))


def _hold(work: Work, values: Values) -> list[Pass]:
    return pass_of(work, FOAM_TACK, "Loose hold, run", run_borders(work.region, FOAM_TACK, HOLD, HOLD_INSET))


def _open(work: Work, values: Values) -> list[Pass]:
    how, spacing = choice(values, "laid_foam_hold"), number(values, "laid_foam_spacing")
    angle = float(np.radians(number(values, "laid_foam_angle")))
    if how == "rings":
        sewn = open_rings(work.region, DECORATION, spacing, ROWS_LENGTH)
    else:
        room = shapely.buffer(work.region, -KEPT_IN, join_style="mitre")
        sewn = [] if room.is_empty else open_ground(room, DECORATION, how, spacing, ROWS_LENGTH, angle)
    return pass_of(work, DECORATION, f"Open {how} {spacing:.1f}", sewn)


def _perforation(work: Work, values: Values) -> list[Pass]:
    step = number(values, "laid_foam_perforation")
    runs = run_borders(work.region, PERFORATION, step)
    sewn = [short_enough(one, step) for one in runs]  # at corners they leave stitches out that are too short to sew
    return pass_of(work, PERFORATION, f"Perforation {step:.1f}", sewn)


def _proves(found: Sewn, strands: list[Strand]) -> FoamTear:
    return prove_perforated(_torn_along(found.work.region, strands), strands, (PERFORATION, TIE))


def _torn_along(region: Area, strands: list[Strand]) -> Area:
    """What stays of the foam: it tears from hole to hole, which a ragged outline does not follow everywhere."""
    code = CODE[PERFORATION]
    rounds = [shapely.linearrings(points) for one in strands if len(points := one.xy[one.role == code]) > 3]
    noded = shapely.union_all(rounds, grid_size=NODED)  # on a grid, where rounds that touch everywhere still settle
    faces = shapely.get_parts(shapely.polygonize([noded]))
    inside = faces[shapely.covers(region, shapely.point_on_surface(faces))]
    return shapely.union_all(inside) if len(inside) else region


def findings(found: Sewn) -> list[Finding]:
    """A perforation too open to tear."""
    step = number(found.values, "laid_foam_perforation")
    if step <= CUT:
        return []
    told = f"{found.work.name} is perforated at {step:.1f} mm: over {CUT:.1f} mm foam tears ragged."
    return [Finding("perforation_open", "info", found.work.piece, told, fix={"laid_foam_perforation": CUT},
                    label=f"Set perforation {CUT:.1f}")]  # fmt: skip


CONSTRUCTION = Construction(
    "laid_foam", "Laid foam", SETTINGS, operations, Family.CLOTH, shown_on=Sample.BODY,
    shown_with={"laid_foam_spacing": 3.0}, proofs=(foam_proof(_proves),), findings=findings,
    hides=lambda work, values: work.region,
)  # fmt: skip
