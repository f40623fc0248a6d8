"""The rinse proof of a build: whether it is lace, which thread is judged, and which openings are meant."""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache

import numpy as np
import shapely

from velamen.core.constructions.base import Family, Work
from velamen.core.geometry.region import Area
from velamen.core.job.document import Job
from velamen.core.materials.colour import LIGHT, brightness
from velamen.core.materials.library import Library
from velamen.core.memo import FORGET, Keyed
from velamen.core.plan.repeat import COPY_MARK
from velamen.core.plan.stitch_plan import StitchPlan
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.rinse.proof import Rinse, prove_rinse
from velamen.core.proofs.rinse.thread import Stitches
from velamen.core.proofs.rinse.told import rinse_findings
from velamen.core.timeline.hooping import leaves_thread

DARK, PALE = "#27303a", "#efe6d6"  # tables that lace is laid on
OPEN = (Family.LINES, Family.EDGES)  # families that leave the inside of a shape open


def is_lace(job: Job, library: Library, cloths: int) -> bool:
    """Whether nothing but thread is left, of so many cloths that are laid and of what the brief lays."""
    return not cloths and leaves_thread(job.brief, library)


def table_under(colours: Sequence[str]) -> str:
    """The colour of the table that lace of some thread colours lies on: dark under light thread, light under dark."""
    return DARK if np.mean([brightness(colour) for colour in colours]) >= LIGHT else PALE


def stitches_of(plan: StitchPlan) -> Stitches:
    """The stitches of a plan, with the thread of each."""
    sewn = plan.sewn
    row = np.flatnonzero(sewn)
    first = sewn & ~np.concatenate(([False], sewn[:-1]))
    return Stitches(plan.xy[row - 1], plan.xy[row], np.cumsum(first.astype(np.int64))[row], row)


def openings(works: Sequence[tuple[Family, Work]]) -> Area | None:
    """Openings that are drawn: holes of shapes, and the inside of those sewn along their outline alone."""
    areas = [(family, work) for family, work in works if work.line is None]
    filled = shapely.union_all([work.region for family, work in areas if family not in OPEN])
    whole = []
    for _, work in areas:
        parts = shapely.get_parts(work.region)
        rings = shapely.get_exterior_ring(parts[shapely.get_type_id(parts) == 3])
        whole.append(shapely.union_all(shapely.polygons(rings)))
    meant = shapely.difference(shapely.union_all(whole), filled)
    return None if meant.is_empty else meant


def rinse_of(plan: StitchPlan, meant: Area | None) -> Rinse:
    """The rinse proof of a plan."""
    return _proved(Keyed((plan, meant), (plan.xy.tobytes(), plan.command.tobytes(), shapely.to_wkb(meant))))


@lru_cache(maxsize=16)
def _proved(given: Keyed[tuple[StitchPlan, Area | None]]) -> Rinse:
    plan, meant = given.it
    return prove_rinse(stitches_of(plan), meant)


def lace_findings(proof: Rinse, plan: StitchPlan, names: dict[str, str]) -> list[Finding]:
    """What the proof of a plan tells. names: of pieces, by id."""
    return rinse_findings(proof, lambda row: plan.blocks[int(plan.block[row])].piece.partition(COPY_MARK)[0], names)


FORGET.append(_proved.cache_clear)
