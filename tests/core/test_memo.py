"""What is kept is kept by content: every field counts, and what a process built before changes no plan."""

import dataclasses
import subprocess
import sys

import numpy as np
import pytest
from shapely import box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.skeleton import framed
from velamen.core.building.works import work_of
from velamen.core.constructions import constructions
from velamen.core.constructions.base import Work
from velamen.core.edits.stack.grounds import with_ground
from velamen.core.job.document import Local, Piece, brief_for, change
from velamen.core.job.needles import Needles
from velamen.core.job.reading import read_job, write_job
from velamen.core.materials.library import shipped
from velamen.core.memo import content, forget, kept, keyed
from velamen.core.outputs.stitch_list import stitch_list

SQUARE = box(-10, -10, 10, 10)
OTHER = {
    "piece": "p9", "name": "Other", "region": box(0, 0, 5, 5), "thread": "104", "line": np.zeros((2, 2)),
    "guides": (np.ones((2, 2)),), "directions": (np.ones((2, 2)),), "decorated": SQUARE, "rails": (np.ones((2, 2)), np.zeros((2, 2))), "start": (1.0, 2.0), "end": (3.0, 4.0),
    "sources": (SQUARE,), "field": SQUARE, "later": SQUARE, "die": "disc_14", "marks": "holes", "pile": 4.0,
    "local": (Local((1.0, 2.0), {"cap_on": False}),),
    "needles": Needles(bytes(16), bytes(2), ["needle"], [2]), "placed": (1.0, 0.0, 0.0, 1.0, 5.0, 0.0),
    "cloths": {"sail_red": work_of(Piece("p1", "Piece", "s1"), SQUARE, shipped()).cloth},
}  # fmt: skip


def work():
    return work_of(Piece("p1", "Piece", "s1"), SQUARE, shipped())


@pytest.mark.parametrize("field", [one.name for one in dataclasses.fields(Work)])
def test_every_field_of_a_work_is_in_its_key(field):
    whole = work()
    other = {"cloth": dataclasses_changed(whole.cloth), "foams": {}, "motifs": {}, **OTHER}[field]
    assert content(dataclasses.replace(whole, **{field: other})) != content(whole)
    assert content(work()) == content(whole) and keyed(work()) == keyed(whole)


def dataclasses_changed(layer):
    return change(layer, thickness=layer.thickness + 0.1)


def test_a_field_that_is_added_counts():
    @dataclasses.dataclass(frozen=True)
    class Longer(Work):
        beads: float = 0.0

    fields = {one.name: getattr(work(), one.name) for one in dataclasses.fields(Work)}
    assert content(Longer(**fields)) != content(Longer(**fields, beads=1.0))
    brief, piece = brief_for("felt"), Piece("p1", "Piece", "s1")
    one, two = (framed(piece, Longer(**fields, beads=count), brief, shipped()) for count in (0.0, 1.0))
    assert one is not two and framed(piece, Longer(**fields), brief, shipped()) is one


def test_contents_are_told_apart_by_value_not_by_identity():
    for one, same, other in (
        (np.arange(4.0), np.arange(4.0), np.arange(4.0).reshape(2, 2)), (1.0, 1.0, True), ("a", "a", "b"),
        ({"a": [1.0]}, {"a": (1.0,)}, {"a": (1.0, 2.0)}), (box(0, 0, 1, 1), box(0, 0, 1, 1), box(0, 0, 1, 2)),
    ):  # fmt: skip
        assert content(one) == content(same) != content(other)
    with pytest.raises(TypeError):
        content({1, 2})


def test_an_edited_foam_is_laid_under_its_own_name_and_no_other_job_sees_it():
    plain = job_of(SQUARE, base="terry", own={"padding": "foam_2"})
    row = shipped().fields("foams", "foam_2")
    own = change(plain, materials={"foams": {"foam_2": {**row, "name": "Cloud foam", "thickness": 2.4}}})
    texts = [build_job(job).plan.stops[0].step.text for job in (plain, own, plain)]
    assert "cloud foam" in texts[1] and texts[0] == texts[2] and "cloud" not in texts[0]
    thick = build_job(own).operations
    laid = next(effect for one in thick for effect in one.effects if one.key == "p1:lay")
    assert laid.layers[0].thickness == 2.4


def mixed_set():
    """Jobs that share shapes, each wanting other rails of them."""
    found = []
    for name in ("star", "comb", "ring"):
        job = job_of(SHAPES[name], base="terry")
        for construct in ("estitch", "fill", "satin_border", "applique", "stipple"):
            found.append(change(job, pieces=[change(job.pieces[0], construct=construct)]))
        wide = change(job.pieces[0], own={"cover_width": 9.0})
        found += [change(job, pieces=[wide]), with_ground(job, "knockdown")]
    return found


def plans(jobs):
    return [stitch_list(build_job(job).plan) for job in jobs]


def test_the_plan_of_a_job_is_the_same_whatever_was_built_before():
    jobs = mixed_set()
    forget()
    first = plans(jobs)
    assert plans(jobs[::-1])[::-1] == first  # warm, the other way round
    forget()
    assert plans(jobs[::-1])[::-1] == first  # afresh, the other way round
    for nth in (0, 8, 15):
        forget()
        assert plans([jobs[nth]]) == [first[nth]]  # alone


def test_a_fresh_process_comes_to_the_same_bytes(tmp_path):
    jobs = mixed_set()[4:6]
    warm = plans(jobs)
    for nth, job in enumerate(jobs):
        (tmp_path / f"{nth}.json").write_bytes(write_job(job))
        script = (
            f"from velamen.cli import main; main(['build', '{tmp_path}/{nth}.json', '--out', '{tmp_path}/{nth}'])"
        )
        subprocess.run([sys.executable, "-c", script], check=True)
        assert (tmp_path / str(nth) / "stitches.csv").read_text() == warm[nth]
        assert read_job(write_job(job)) == job


def test_every_construction_is_kept_and_found_again():
    for name, kind in constructions().items():
        if kind.areas:
            job = job_of(SHAPES["leaf"], base="fleece")
            job = change(job, pieces=[change(job.pieces[0], construct=name)])
            one, two = build_job(job), build_job(read_job(write_job(job)))
            assert all(a is b for a, b in zip(one.pieces[0].sewn, two.pieces[0].sewn, strict=True)), name


def test_a_kept_answer_is_worked_out_once_and_handed_out_anew():
    asked = []

    @kept(8)
    def sizes(areas, factor=1.0):
        asked.append(areas)
        return [factor * one.area for one in areas]

    areas = [SHAPES["square"], SHAPES["ring"]]
    first = sizes(areas)
    first.clear()  # what one reader does with his list is nothing to the next
    assert sizes(tuple(areas)) == [one.area for one in areas] and len(asked) == 1
    assert sizes(areas, factor=2.0) != sizes(areas) and sizes(areas[:1]) != sizes(areas) and len(asked) == 3
    forget()
    assert len(sizes(areas)) == 2 and len(asked) == 4
