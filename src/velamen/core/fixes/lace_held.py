"""Lace made to hold: a net put under it, bridges sewn where it parts or hangs by a strand, runs under bare satins."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from scipy.spatial import cKDTree
from shapely import LineString, Polygon

from velamen.core.arrays import Array
from velamen.core.building.build import Build
from velamen.core.constructions import constructions, usual
from velamen.core.constructions.base import Construction
from velamen.core.edits.shapes.bring_in import free_name, with_region
from velamen.core.edits.stack.grounds import with_ground
from velamen.core.edits.stack.own_values import with_values
from velamen.core.errors import BadInput
from velamen.core.job.document import Job, change
from velamen.core.proofs.finding import Finding

INTO = 1.6  # mm that a bridge reaches into what it joins
WIDE = 1.4  # mm across a bridge, which is sewn round
CLEAR = 1.5  # mm from the weakest place that a bridge begins, so that it hangs on other thread
FARTHEST = 15.0  # mm that a bridge spans
MOST_BRIDGES = 6


def net_under(build: Build, finding: Finding) -> Iterator[tuple[str, Job]]:
    """A net with border rounds under all of it."""
    if any(one.kind.holds_lace for one in build.pieces):
        return
    try:
        yield "Put a net under all of it", with_ground(build.job, _net().name)
    except BadInput:
        return


def _net() -> Construction:
    """What holds lace together from below."""
    return next(one for one in constructions().values() if one.holds_lace)


def bridged(build: Build, finding: Finding) -> Iterator[tuple[str, Job]]:
    """A bridge from every part that has come loose, or beside the strand that all hangs by."""
    proof = build.rinse
    if proof is None:
        return
    if len(proof.parts) > 1:
        gaps = _between_parts([part.lines.reshape(-1, 2) for part in proof.parts])
        label = "Sew a bridge to it" if len(gaps) == 1 else f"Sew {len(gaps)} bridges between the parts"
    elif proof.weakest is not None:
        gaps = _beside(*proof.weakest.sides, np.array(proof.weakest.at))
        label = "Sew a bridge at the weakest place"
    else:
        return
    if not 0 < len(gaps) <= MOST_BRIDGES:
        return
    job = build.job
    try:
        for gap in gaps:
            job = _with_bridge(job, gap)
    except BadInput:
        return
    yield label, job


def _between_parts(parts: list[Array]) -> list[Array]:
    """For each part after the first the shortest way (2, 2) to those before it; none where one lies too far off."""
    joined, found = parts[0], list[Array]()
    left = parts[1:]
    while left:
        tree = cKDTree(joined)
        asked = [tree.query(part) for part in left]
        nth = int(np.argmin([off.min() for off, _ in asked]))
        off, near = asked[nth]
        spot = int(np.argmin(off))
        if off[spot] > FARTHEST:
            return []
        found.append(np.stack([joined[near[spot]], left[nth][spot]]))
        joined = np.concatenate([joined, left.pop(nth)])
    return found


def _beside(one: Array, other: Array, at: Array) -> list[Array]:
    """The shortest way (2, 2) from the one side of a weak place to the other, clear of that place."""
    one, other = (side[np.linalg.norm(side - at, axis=1) > CLEAR] for side in (one, other))
    if not len(one) or not len(other):
        return []
    off, near = cKDTree(one).query(other)
    spot = int(np.argmin(off))
    return [np.stack([one[near[spot]], other[spot]])] if off[spot] <= FARTHEST else []


def _with_bridge(job: Job, gap: Array) -> Job:
    """The job with a bridge over a gap: a slim round, sewn first of all, that crosses the thread on both sides."""
    course = gap[1] - gap[0]
    long = float(np.linalg.norm(course))
    course = course / long if long > 1e-6 else np.array([1.0, 0.0])
    line = LineString([gap[0] - INTO * course, gap[1] + INTO * course])
    round_ = shapely.buffer(line, WIDE / 2, quad_segs=3)
    assert isinstance(round_, Polygon)
    made = with_region(job, free_name(job, "Bridge"), round_, len(job.pieces), None, usual("line").name)
    bridge = made.pieces[-1]
    return change(made, pieces=[*made.pieces[:-1], change(bridge, thread=job.pieces[0].thread, own={})])


def underlaid(build: Build, finding: Finding) -> Iterator[tuple[str, Job]]:
    """A run under a satin or fill that has nothing under it."""
    built = build.piece(finding.piece)
    if built is not None:
        for key, value in built.values.items():
            if value.setting.measure == "underlay" and value.value == "none":
                job = with_values(build.job, built.piece.id, {key: "edge_run"})
                yield f"Sew a run under {built.piece.name}", job
        yield f"Put a net under {built.piece.name}", with_ground(build.job, _net().name, [built.piece.id])
