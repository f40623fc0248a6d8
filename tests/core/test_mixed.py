"""Whole jobs of ugly shapes at random: every construction beside and over every other, on every base, with own ends."""

import random

import numpy as np
import pytest
import shapely

from core.jobs import job_of, why_lost
from core.ugly import KINDS, ugly
from velamen.core.building.build import build_job
from velamen.core.building.whole_proofs import order_broken
from velamen.core.building.works import check_pieces
from velamen.core.constructions import constructions, sewn_pieces
from velamen.core.edits.shapes import arranging
from velamen.core.edits.shapes.live_shapes import followed
from velamen.core.edits.stack import grounds, shared_stops
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.job.reading import check_job, read_job, write_job
from velamen.core.materials.library import shipped
from velamen.core.outputs.cut_file import cut_svg
from velamen.core.outputs.folder import files_of
from velamen.core.outputs.gcode import gcode
from velamen.core.outputs.plan_binary import plan_binary
from velamen.core.outputs.report import report_json
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.stitching.strand import LONGEST

COVERS = ("satin", "estitch", "blanket", "overedge", "raw", "none")
TACKS = ("zigzag", "run", "double_run", "estitch")
SHAPED = [name for name, kind in constructions().items() if kind.areas and not (kind.around and kind.around.first)]


def mixed(seed):
    """A job of up to eight pieces, half of them appliqué, some with ends of their own, and a ground.

    Every third is spread out in two cloths and one kind of appliqué, so that stops can be shared.
    """
    rng = random.Random(seed)
    spread = seed % 3 == 0
    regions = []
    while not regions:
        for kind in rng.choices(list(KINDS), k=rng.randint(1, 4)):
            regions += [shapely.affinity.translate(part, rng.uniform(-40, 40), rng.uniform(-30, 30))
                        for part in ugly(kind, rng.randint(0, 10**6))[:2]]  # fmt: skip
    job = job_of(*regions, base=rng.choice(list(shipped().bases)), hoop="h360x200")
    pieces = []
    for piece in job.pieces:
        construct = "applique" if spread or rng.random() < 0.5 else rng.choice(SHAPED)
        own = {"cover_kind": rng.choice(COVERS), "tack_kind": rng.choice(TACKS)} if construct == "applique" else {}
        own = {"cover_kind": COVERS[seed // 3 % 5]} if spread else own
        ends = [(round(rng.uniform(-40, 40), 1), round(rng.uniform(-30, 30), 1)) if rng.random() < 0.3 else None
                for _ in "se"]  # fmt: skip
        cloth = rng.choice(list(shipped().cloths)[: 2 if spread else None])
        pieces.append(change(piece, construct=construct, own=own, cloth=cloth, start=ends[0], end=ends[1]))
    job = change(job, pieces=pieces)
    if spread:
        for nth, shape in enumerate(job.shapes):
            job = arranging.moved(job, [shape.id], np.eye(2), np.array([70.0 * nth - 200.0, 0.0]))
        job = tried(job, shared_stops.shared)
    for edit in rng.sample((
        lambda one: grounds.with_ground(one, rng.choice(["knockdown", "contrast", "basting"])),
        shared_stops.shared, lambda one: grounds.as_motif(one, "emboss", [one.pieces[0].id]),
    ), k=2):  # fmt: skip
        job = tried(job, edit)
    return check_pieces(check_job(read_job(write_job(followed(job)))))


def tried(job, edit):
    """A job after an edit, or as it is where that cannot be: nothing to share, or nothing left to go round."""
    try:
        return edit(job)
    except BadInput:
        return job


SEEDS = [*range(30), 193, 288, 513]


@pytest.mark.parametrize("seed", SEEDS)
def test_any_job_is_built_proved_and_handed_over(seed):
    build = build_job(mixed(seed))
    plan = build.plan
    assert np.isfinite(plan.xy).all() and len(plan.xy) == len(plan.command) == len(plan.block)
    step = np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)
    assert step[(plan.command[1:] == STITCH)].max(initial=0.0) <= LONGEST + 0.01
    assert report_json(build) and plan_binary(build) and gcode(build).rstrip().endswith("%")
    assert cut_svg(build).count("<path") == len(build.cut)
    assert order_broken(build) == []


def test_those_jobs_reach_orders_of_their_own_and_stops_of_several():
    jobs = [mixed(seed) for seed in SEEDS]
    ordered = [job for job in jobs if job.order]
    assert len(ordered) >= 5
    assert sum(any(len(halt.step.pieces) > 1 for halt in build_job(job).plan.stops) for job in ordered) >= 5


@pytest.mark.parametrize("seed", range(4))
def test_a_shape_that_cannot_be_sewn_among_others_is_named(seed):
    job = mixed(seed)
    nth = seed % len(job.shapes)
    speck = [(0.0, 0.0), (0.5, 0.0), (0.5, 0.5)]
    shapes = [
        change(one, rings=[speck], nodes=[], name="speck") if at == nth else one for at, one in enumerate(job.shapes)
    ]
    job = change(job, shapes=shapes)
    assert "Shape 'speck' encloses 0.12 mm²: too small to sew." in why_lost(job)
    build = build_job(job)
    assert len(build.pieces) >= len(sewn_pieces(job)) - 2 and build.findings[0].code == "cannot_build"
    with pytest.raises(BadInput, match="too small to sew"):
        files_of(build)
