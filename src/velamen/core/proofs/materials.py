"""Findings over the whole job: materials that do not go together, density, and the sewing field."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.job.document import Brief
from velamen.core.materials.hoops import hoop_around, overshoot
from velamen.core.materials.library import Library
from velamen.core.materials.records import Hoop
from velamen.core.plan.stitch_plan import StitchPlan
from velamen.core.proofs.finding import Finding
from velamen.core.timeline.effects import Lays, Opens, Presses
from velamen.core.timeline.layers import CLOTH, FOAM
from velamen.core.timeline.operation import Operation
from velamen.core.values.advice import Sewn, brief_cautions, density_of
from velamen.core.values.value import Values, number

HOLES_APART = 0.5  # mm of satin spacing where needle holes stay (handbook, section 3)
EVEN = 0.05  # mm over the field that rounding may account for
APART, MOST = 10.0, 12  # mm of a cell in which one place outside is told, and how many are


@dataclass(frozen=True)
class Sight:
    """A piece as these findings see it."""

    piece: str  # id
    name: str
    values: Values


def sewn_of(operations: Sequence[Operation], plan: StitchPlan) -> Sewn:
    """What advice and cautions ask about what is done."""
    effects = [effect for one in operations for effect in one.effects]
    laid = {layer.kind for one in effects if isinstance(one, Lays) for layer in one.layers}
    knockdown = any(isinstance(one, Presses) for one in effects)  # an embossing keeps pile down as well
    opening = any(isinstance(one, Opens) for one in effects)
    return Sewn(FOAM in laid, knockdown, CLOTH in laid, opening, density_of(plan.xy[plan.sewn]))


def job_findings(
    brief: Brief, library: Library, plan: StitchPlan, operations: Sequence[Operation], pieces: Sequence[Sight]
) -> list[Finding]:
    """Findings that concern the job as a whole, the gravest first."""
    sewn = sewn_of(operations, plan)
    density = sewn.density
    found = field_findings(plan, library.hoops[brief.hoop], library, {one.piece: one.name for one in pieces})
    for told in brief_cautions(brief, library, sewn):
        at = ((density.x, density.y),) if told.code == "layers_few" and density else ()
        found.append(Finding(
            told.code, told.severity, "", _sentence(told.message), at, {}, told.label, told.fix
        ))  # fmt: skip
    if library.bases[brief.base].marks == "holes":
        found += [one for each in pieces for one in _close_holes(each.piece, each.name, each.values)]
    return found


def field_findings(plan: StitchPlan, hoop: Hoop, library: Library, names: Mapping[str, str]) -> list[Finding]:
    """Whether every needle point lies in the sewing field, where not, and of what; names the next hoop that fits.

    names: of the pieces, by id.
    """
    points = plan.xy[plan.sewn]
    over = overshoot(hoop, points) if len(points) else np.zeros(0)
    outside = over > EVEN
    if not outside.any():
        return []
    other = hoop_around(library, points)
    hint = f"the {other.name} field holds it" if other else "no hoop of the library holds it"
    blocks = np.unique(plan.block[plan.sewn][outside]).tolist()
    told = list(dict.fromkeys(names[one] for nth in blocks if (one := plan.blocks[nth].piece) in names))
    what = told[0] if len(told) == 1 and len(names) > 1 else "The design"
    of = f", {' and '.join(told)}" if 1 < len(told) < min(len(names), 4) else ""
    return [Finding(
        "outside_field", "error", "",
        f"{what} reaches {float(over.max()):.1f} mm over the {hoop.name} sewing field{of}: {hint}.",
        _worst(points[outside], over[outside]), {},
        f"Take the {other.name} hoop" if other else "", {"hoop": other.key} if other else {},
    )]  # fmt: skip


def _worst(points: NDArray[np.float64], over: NDArray[np.float64]) -> tuple[tuple[float, float], ...]:
    """The place farthest outside of each cell in which some are, the farthest first."""
    order = np.argsort(-over, kind="stable")
    _, first = np.unique(np.floor(points[order] / APART).astype(np.int64), axis=0, return_index=True)
    worst = points[order[np.sort(first)[:MOST]]]
    return tuple((round(float(x), 2), round(float(y), 2)) for x, y in worst)


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
