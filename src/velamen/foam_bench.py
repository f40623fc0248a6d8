"""Speed of foam: letters as puff against the same as flat columns, the foam-tear proof, a shadow behind a word."""

from __future__ import annotations

import string
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import shapely

from velamen.core.artwork.lettering import lettering
from velamen.core.building.build import build_job
from velamen.core.constructions.puff import CONSTRUCTION
from velamen.core.constructions.puff.satin import CUTTING, RUNS
from velamen.core.geometry.region import rings_of
from velamen.core.geometry.swept import faces
from velamen.core.job.document import Job, Piece, brief_for
from velamen.core.job.shape import Shape
from velamen.core.memo import forget
from velamen.core.proofs.foam_tear import prove_foam_tear
from velamen.core.stitching.column import columns
from velamen.core.stitching.column_thread import Sewing
from velamen.core.stitching.faces import FaceSewing, sewn_faces
from velamen.core.stitching.strand import Strand

FACE, HEIGHT, COPIES = "rubik", 25.0, 5  # COPIES: of all letters beside one another, for some 100,000 needle points
SPACING = 0.16  # mm, as over 3 mm of foam
WAY = np.array([1.3, 1.3])  # mm


def foam_figures() -> dict[str, Any]:
    """Rows of the benchmark, by name."""
    regions = [region for one in string.ascii_uppercase + string.digits
               for letter in lettering(one, FACE, HEIGHT) for region in letter.regions]  # fmt: skip
    job = _job(regions)
    puffed, plain = _seconds(lambda: _afresh(job)), _seconds(lambda: _flat(regions))
    sewn = [strand for one in build_job(job).pieces for each in one.sewn for strand in each.strands]
    many = [Strand(one.xy + np.array([400.0 * nth, 0.0]), one.role) for nth in range(COPIES) for one in sewn]
    proved = _seconds(lambda: prove_foam_tear(many, CUTTING, RUNS))
    points = sum(len(one.xy) for one in many)
    whole = shapely.union_all(regions)
    shadow = _seconds(lambda: sewn_faces(faces(whole, WAY, whole), whole, FaceSewing(WAY, 0.4, 0.2, True)))
    return {
        "puff, 36 letters: over the same as flat columns, time": round(puffed / plain, 2),
        "foam-tear proof: needle points": points,
        "foam-tear proof: needle points a second": round(points / proved),
        "foam-tear proof: of building those letters as puff": round(proved / (puffed * COPIES), 2),
        "flat shadow behind 36 letters: of their puff, time": round(shadow / puffed, 2),
    }


def _job(regions: list[shapely.Polygon]) -> Job:
    shapes = [Shape(f"s{nth}", "Letter", [[(float(x), float(y)) for x, y in ring] for ring in rings_of(region)])
              for nth, region in enumerate(regions)]  # fmt: skip
    pieces = [Piece(f"p{one.id[1:]}", one.name, one.id, CONSTRUCTION.name) for one in shapes]
    return Job(brief=brief_for("cap", "h200x300"), shapes=shapes, pieces=pieces)


def _flat(regions: list[shapely.Polygon]) -> None:
    forget()
    for region in regions:
        columns(region, Sewing("column", SPACING, underlay="edge_run"))


def _afresh(job: Job) -> None:
    forget()
    build_job(job)


def _seconds(work: Callable[[], object]) -> float:
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun
