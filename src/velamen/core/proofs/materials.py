"""Findings over the whole job: materials that do not go together, density, and the sewing field."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.job.document import Brief
from velamen.core.materials.hoops import hoop_around, overshoot
from velamen.core.materials.library import Library
from velamen.core.materials.records import Hoop
from velamen.core.plan.stitch_plan import StitchPlan
from velamen.core.proofs.finding import Finding
from velamen.core.timeline.effects import Lays, Presses
from velamen.core.timeline.layers import FOAM
from velamen.core.timeline.operation import Operation
from velamen.core.values.advice import Sewn, brief_cautions, density_of
from velamen.core.values.value import Values, number

HOLES_APART = 0.5  # mm of satin spacing where needle holes stay (handbook, section 3)
EVEN = 0.05  # mm over the field that rounding may account for


@dataclass(frozen=True)
class Sight:
    """A piece as these findings see it."""

    piece: str  # id
    name: str
    values: Values


def sewn_of(operations: Sequence[Operation], plan: StitchPlan) -> Sewn:
    """What advice and cautions ask about what is done."""
    effects = [effect for one in operations for effect in one.effects]
    foam = any(layer.kind == FOAM for one in effects if isinstance(one, Lays) for layer in one.layers)
    knockdown = any(one.first and any(isinstance(each, Presses) for each in one.effects) for one in operations)
    return Sewn(foam, knockdown, density_of(plan.xy[plan.sewn]))


def job_findings(
    brief: Brief, library: Library, plan: StitchPlan, operations: Sequence[Operation], pieces: Sequence[Sight]
) -> list[Finding]:
    """Findings that concern the job as a whole, the gravest first."""
    points = plan.xy[plan.sewn]
    sewn = sewn_of(operations, plan)
    density = sewn.density
    found = field_findings(points, library.hoops[brief.hoop], library)
    for told in brief_cautions(brief, library, sewn):
        at = ((density.x, density.y),) if told.code == "layers_few" and density else ()
        found.append(Finding(
            told.code, told.severity, "", _sentence(told.message), at, {}, told.label, told.fix
        ))  # fmt: skip
    if library.bases[brief.base].marks == "holes":
        found += [one for each in pieces for one in _close_holes(each.piece, each.name, each.values)]
    return found


def field_findings(points: NDArray[np.float64], hoop: Hoop, library: Library) -> list[Finding]:
    """Whether every needle point lies in the sewing field; names the next hoop that fits."""
    if len(points) == 0:
        return []
    over = overshoot(hoop, points)
    if float(over.max()) <= EVEN:
        return []
    other = hoop_around(library, points)
    worst = points[int(np.argmax(over))]
    hint = f"the {other.name} field holds it" if other else "no hoop of the library holds it"
    return [Finding(
        "outside_field", "error", "",
        f"The design reaches {float(over.max()):.1f} mm over the {hoop.name} sewing field: {hint}.",
        ((round(float(worst[0]), 2), round(float(worst[1]), 2)),), {},
        f"Take the {other.name} hoop" if other else "", {"hoop": other.key} if other else {},
    )]  # fmt: skip


def _close_holes(piece: str, name: str, values: Values) -> list[Finding]:
    return [
        Finding(
            "holes_close", "warning", piece,
            f"The cover of {name} sets needle points {number(values, key):.2f} mm apart: "
            f"the holes stay, and closer than {HOLES_APART:g} they cut like a saw.",
            (), {key: max(float(value.matched), HOLES_APART)}, f"Set spacing {HOLES_APART:g}",
        )
        for key, value in values.items()
        if value.setting.measure == "satin_spacing" and number(values, key) < HOLES_APART
    ]  # fmt: skip


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:]
