"""Whole jobs of ugly shapes at random: every construction beside and over every other, on every base, with own ends."""

import random

import numpy as np
import pytest
import shapely

from core.jobs import job_of
from core.ugly import KINDS, ugly
from velamen.core.building.build import build_job
from velamen.core.building.whole_proofs import order_broken
from velamen.core.building.works import check_pieces
from velamen.core.constructions import constructions
from velamen.core.edits.stack import grounds, shared_stops
from velamen.core.errors import BadInput
from velamen.core.job.document import change, check_job, read_job, write_job
from velamen.core.materials.library import shipped
from velamen.core.outputs.cut_file import cut_svg
from velamen.core.outputs.gcode import gcode
from velamen.core.outputs.plan_binary import plan_binary
from velamen.core.outputs.report import report_json
from velamen.core.plan.stitch_plan import STITCH
from velamen.core.stitching.strand import LONGEST

COVERS = ("satin", "estitch", "blanket", "overedge", "raw", "none")
TACKS = ("zigzag", "run", "double_run", "estitch")
SHAPED = [name for name, kind in constructions().items() if kind.areas and not (kind.around and kind.around.first)]


def mixed(seed):
    """A job of up to eight pieces, half of them appliqué, some with ends of their own, and a ground."""
    rng = random.Random(seed)
    regions = []
    while not regions:
        for kind in rng.choices(list(KINDS), k=rng.randint(1, 4)):
            regions += [shapely.affinity.translate(part, rng.uniform(-40, 40), rng.uniform(-30, 30))
                        for part in ugly(kind, rng.randint(0, 10**6))[:2]]  # fmt: skip
    job = job_of(*regions, base=rng.choice(list(shipped().bases)), hoop="h360x200")
    pieces = []
    for piece in job.pieces:
        construct = "applique" if rng.random() < 0.5 else rng.choice(SHAPED)
        own = {"cover_kind": rng.choice(COVERS), "tack_kind": rng.choice(TACKS)} if construct == "applique" else {}
        ends = [(round(rng.uniform(-40, 40), 1), round(rng.uniform(-30, 30), 1)) if rng.random() < 0.3 else None
                for _ in "se"]  # fmt: skip
        cloth = rng.choice(list(shipped().cloths))
        pieces.append(change(piece, construct=construct, own=own, cloth=cloth, start=ends[0], end=ends[1]))
    job = change(job, pieces=pieces)
    for edit in rng.sample((
        lambda one: grounds.with_ground(one, rng.choice(["knockdown", "contrast", "basting"])),
        shared_stops.shared, lambda one: grounds.as_motif(one, "emboss", [one.pieces[0].id]),
    ), k=2):  # fmt: skip
        try:
            job = edit(job)
        except BadInput:
            continue  # nothing to share, or nothing left to go round: said, and tested elsewhere
    return check_pieces(check_job(read_job(write_job(job))))


@pytest.mark.parametrize("seed", [*range(30), 193, 288, 513])
def test_any_job_is_built_proved_and_handed_over(seed):
    try:
        build = build_job(mixed(seed))
    except BadInput as error:
        assert str(error).endswith(".")
        return
    plan = build.plan
    assert np.isfinite(plan.xy).all() and len(plan.xy) == len(plan.command) == len(plan.block)
    step = np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)
    assert step[(plan.command[1:] == STITCH)].max(initial=0.0) <= LONGEST + 0.01
    assert report_json(build) and plan_binary(build) and gcode(build).rstrip().endswith("%")
    cloths = [one for one in build.cut if not one.outline.is_empty]
    assert cut_svg(build).count("<path") >= len(cloths)
    if not build.job.order:
        assert order_broken(build) == []
