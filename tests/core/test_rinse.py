"""Rinse proof: what holds and what does not, the weakest place exact, against slow programs and both ways on builds."""

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from shapely import Point, box

from core import slow_lace
from core.jobs import job_of
from core.laces import FAILING, HOLDING, MIDDLE, RINGS, across, lace
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.building.lace import stitches_of
from velamen.core.fixes.job_fixes import mended, mends
from velamen.core.job.document import change
from velamen.core.outputs.report import report
from velamen.core.proofs.rinse.cuts import weakest
from velamen.core.proofs.rinse.flows import bounded
from velamen.core.proofs.rinse.proof import prove_rinse
from velamen.core.proofs.rinse.thread import Stitches


def tied(*spots):
    """A thread through places (x, y), tied at both ends."""
    xy = np.array(spots, float)
    first, last = (xy[a] + 0.5 * (xy[b] - xy[a]) / np.linalg.norm(xy[b] - xy[a]) for a, b in ((0, 1), (-1, -2)))
    return np.concatenate([xy[:1], first[None], xy, last[None], xy[-1:]])


def stitches(*threads):
    lengths = [len(one) - 1 for one in threads]
    return Stitches(np.concatenate([one[:-1] for one in threads]), np.concatenate([one[1:] for one in threads]),
                    np.repeat(np.arange(len(threads)), lengths), np.arange(sum(lengths)))  # fmt: skip


def circle(x, y, radius, count=16, turn=0.1):
    angle = np.linspace(0, 2 * np.pi, count + 1) + turn
    return tied(*np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle)], axis=1))


def parts(*threads):
    proof = prove_rinse(stitches(*threads))
    return len(proof.parts), proof.touching


LEVEL = tied((-6, 0), (-4, 0), (-1.2, 0), (1.1, 0), (4, 0), (6, 0))
MEETINGS = {
    "crossing between needle points": (tied((0, -6), (0, -3), (0, -1), (0, 1.2), (0, 3), (0, 6)), (1, 1)),
    "side by side": (tied((-6, 0.3), (-3, 0.3), (0, 0.3), (6, 0.3)), (2, 2)),
    "through it at a needle point": (tied((0.2, -6), (0.2, -2), (0.2, 0.05), (0.2, 2), (0.2, 6)), (1, 1)),
    "tip that only touches": (tied((-3, 4), (0.2, 0.05), (3, 4)), (2, 1)),
    "tip that goes well over": (tied((-3, 4), (0.2, -0.6), (3, 4)), (1, 1)),
    "same hole, crossing in it": (tied((1.1, -5), (1.1, -2), (1.1, 0), (1.1, 2), (1.1, 5)), (1, 1)),
    "same hole, tip to tip": (tied((-1, 4), (1.1, 0), (3, 4)), (2, 1)),
    "same hole, full of thread": (
        tied((-1, 4), (1.1, 0.02), (3, 4), (1.1, -0.02), (0, 5), (1.1, 0.03), (2, 5)),
        (1, 1),
    ),
    "along it for a whole stitch": (tied((-4, 4), (-0.9, 0.1), (0.8, 0.1), (4, 4)), (1, 1)),
    "along it for a moment": (tied((-4, 4), (-0.9, 0.1), (-0.4, 0.1), (-3, 4)), (2, 1)),
}


@pytest.mark.parametrize("name", MEETINGS)
def test_threads_hold_one_another_as_the_model_says(name):
    other, expected = MEETINGS[name]
    assert parts(LEVEL, other) == expected


def test_an_end_without_a_tie_draws_out():
    crossing = np.array([(0.0, -4), (0, -2), (0, 1.9), (0, 4)])
    assert parts(LEVEL, tied(*crossing)) == (1, 1)
    assert prove_rinse(stitches(LEVEL, crossing)).length < prove_rinse(stitches(LEVEL, tied(*crossing))).length - 7


def brute(ends, weight, least):
    """The fewest edges whose loss parts more than a share of the weight in two, and the greatest share they part."""
    for count in (1, 2, 3):
        best = 0.0
        for gone in itertools.combinations(range(len(ends)), count):
            rest = np.delete(ends, gone, axis=0)
            graph = coo_array((np.ones(len(rest)), rest.T), (len(weight),) * 2)
            number, part = connected_components(graph, directed=False)
            if number == 2:
                best = max(best, float(np.bincount(part, weight).min() / weight.sum()))
        if best > least:
            return count, round(best, 9)
    return None


def test_the_weakest_place_is_exact_on_hundreds_of_small_graphs():
    random = np.random.default_rng(7)
    told = []
    for nth in range(400):
        count = int(random.integers(3, 8))
        tree = [(k, int(random.integers(0, k))) for k in range(1, count)]
        ends = np.array([*tree, *random.integers(0, count, (int(random.integers(0, 7)), 2)).tolist()])
        weight, least = random.random(count) * 5 + 0.01, (0.02, 0.1, 0.2, 0.3)[nth % 4]
        found = weakest(ends, weight, least)
        assert (found and (len(found.edges), round(found.share, 9))) == brute(ends, weight, least)
        told.append(found and len(found.edges))
    assert min(told.count(kind) for kind in (1, 2, 3, None)) > 15


@pytest.mark.parametrize("count", [50, 9_000, 60_000])
def test_a_long_ring_is_parted_in_halves_and_a_long_line_in_the_middle(count):
    line = np.stack([np.arange(count - 1), np.arange(1, count)], axis=1)
    found = weakest(line, np.ones(count), 0.02)
    assert found.edges == (count // 2 - 1,) and found.share == 0.5
    ring = weakest(np.concatenate([line, [[count - 1, 0]]]), np.ones(count), 0.02)
    assert len(ring.edges) == 2 and ring.share == 0.5
    star = weakest(np.stack([np.zeros(count, int), np.arange(1, count + 1)], axis=1), np.ones(count + 1), 0.01)
    assert (star is None) == (count > 50)


@given(st.integers(0, 10_000))
@settings(max_examples=30)
def test_no_bound_is_under_the_weakest_place(seed):
    random = np.random.default_rng(seed)
    grid = np.arange(36).reshape(6, 6)
    ends = np.concatenate([np.stack([grid[:, :-1].ravel(), grid[:, 1:].ravel()], 1),
                           np.stack([grid[:-1].ravel(), grid[1:].ravel()], 1)])  # fmt: skip
    ends = ends[random.random(len(ends)) > 0.15]
    _, part = connected_components(coo_array((np.ones(len(ends)), ends.T), (36, 36)), directed=False)
    kept = np.flatnonzero(part == np.bincount(part).argmax())
    number = np.full(36, -1)
    number[kept] = np.arange(len(kept))
    ends, weight = number[ends[np.isin(ends, kept).all(axis=1)]], random.random(len(kept)) + 0.1
    bound, exact = bounded(ends, weight, 0.05), weakest(ends, weight, 0.05)
    assert bound is None or exact is None or len(bound.edges) >= len(exact.edges)


@pytest.mark.parametrize("name", HOLDING)
def test_lace_that_holds_is_proved_so(name):
    build = build_job(HOLDING[name])
    proof = build.rinse
    assert proof.held and len(proof.parts) == 1 and not build.lost, [one.message for one in build.findings]
    assert not [one for one in build.findings if one.code in ("lace_apart", "lace_hinge", "lace_bare", "lace_sags")]
    told = report(build)["proofs"]["rinse"]
    assert told["held"] and told["parts"] == 1 and told["sagging"] == told["unsupported"] == []


@pytest.mark.parametrize("name", FAILING)
def test_lace_that_does_not_hold_is_told_with_its_places_and_ways_out(name):
    job, code = FAILING[name]
    build = build_job(job)
    (finding, *_) = [one for one in build.findings if one.code == code]
    assert not build.rinse.held and not report(build)["proofs"]["rinse"]["held"]
    sewn = shapely.box(*shapely.total_bounds(shapely.points(build.plan.xy))).buffer(1)
    assert finding.at and all(sewn.contains(Point(spot)) for spot in finding.at)
    for way in mends(build, finding):
        after = build_job(mended(job, code, finding.piece, way.label))
        assert code not in {one.code for one in after.findings}, way.label
    assert mends(build, finding) or name in ("cells too wide", "rings that touch")


def test_a_bridge_is_offered_where_one_line_holds_and_it_ends_the_finding():
    job, code = FAILING["one line between"]
    build = build_job(job)
    (finding,) = [one for one in build.findings if one.code == code]
    assert build.rinse.weakest.strands == 1 and 0.45 < build.rinse.weakest.share <= 0.5
    labels = [one.label for one in mends(build, finding)]
    assert labels[0] == "Sew a bridge at the weakest place" and "Put a net under all of it" in labels
    after = build_job(mended(job, code, "", labels[0]))
    assert after.rinse.held and after.pieces[-1].piece.name == "Bridge" and after.rinse.weakest.strands == 3


def test_what_is_no_lace_is_not_proved():
    for job in (lace((MIDDLE, "net"), base="felt"), job_of(MIDDLE, base="none")):
        build = build_job(job)
        assert build.rinse is None and report(build)["proofs"]["rinse"] is None


def test_openings_that_are_drawn_are_no_cells():
    ring = SHAPES["ring"]
    assert build_job(lace((ring, "net"))).rinse.sagging == ()
    whole = build_job(lace((Point(0, 0).buffer(12), "bean"), (Point(0, 0).buffer(12.3), "bean"))).rinse
    assert whole.sagging == ()  # a line goes round what is meant to be open
    sagging = build_job(lace((MIDDLE, "net", {"net_cell": 7.5}))).rinse.sagging
    assert len(sagging) >= 4 and all(7.3 < one.much <= 7.55 for one in sagging)


def test_stiff_places_are_told():
    bar = box(-10, -1.5, 10, 1.5)
    four = build_job(lace(*((bar, "column", {"column_underlay": "none"}) for _ in range(4))))
    (told,) = [one for one in four.findings if one.code == "lace_wire"]
    assert "turns to wire" in told.message and four.rinse.wire[0].much > 25
    assert build_job(HOLDING["net"]).rinse.wire == ()


SLOWLY = {
    **{f"net {angle} {border}": lace((box(-7, -5, 7, 5), "net", {"net_angle": float(angle), "net_border": float(border)}))
       for angle, border in ((0, 0), (0, 2), (20, 1), (45, 0), (45, 2))},
    **{f"hinge {count}": lace((box(-14, -4, -3, 4), "net"), (box(3, -4, 14, 4), "net"), *across(*heights))
       for count, heights in enumerate([(), (0,), (-2, 2), (-2.5, 0, 2.5)])},
    "strips": lace((box(-10, -4, 0.7, 4), "net"), (box(-0.7, -4, 10, 4), "net")),
    "rings": lace(*((one, "run") for one in RINGS)),
    "beans": lace(*((one, "bean") for one in RINGS[:3])),
    "figures": lace((box(-9, -7, 9, 7), "motif_fill", {"motif": "ring", "motif_size": 5.0})),
    "leaves": lace((box(-9, -7, 9, 7), "motif_fill", {"motif_size": 6.0, "motif_times": 1.0})),
    "column": lace((box(-14, -3, 14, 3), "motif_column", {"motif_gap": -0.8})),
    "wreath": lace((Point(0, 0).buffer(8), "motif_line", {"motif_size": 4.0}), (Point(0, 0).buffer(8.5), "run")),
}  # fmt: skip


@pytest.mark.parametrize("name", SLOWLY)
def test_parts_and_weakest_place_are_those_of_a_slow_program(name):
    plan = build_job(SLOWLY[name]).plan
    given = stitches_of(plan)
    begins = np.flatnonzero(np.diff(given.thread, prepend=-1))
    threads = [np.concatenate([given.start[low : low + 1], given.stop[low:high]]).round(3).tolist()
               for low, high in zip(begins, [*begins[1:], len(given.row)], strict=True)]  # fmt: skip
    edges, proof = slow_lace.graph_of(threads), build_job(SLOWLY[name]).rinse
    heavy = [one for one in slow_lace.parted(edges) if one > 0.5]
    assert len(proof.parts) == len(heavy)
    assert np.allclose([one.length for one in proof.parts], heavy, rtol=0.01)
    if len(heavy) == 1:
        count, share = slow_lace.fewest(edges, 0.02)
        found = proof.weakest
        assert (found.strands if found and found.exact and found.strands < 3 else 0) == count
        assert count == 0 or abs(found.share - share) < 0.002


def test_lace_is_rinsed_last_of_all_and_nothing_else_is():
    steps = report(build_job(HOLDING["net"]))["steps"]
    assert [(one["kind"], one["when"]) for one in steps] == [("wash_away", "after")]
    assert "rinse the wash-away fabric out" in steps[0]["text"]
    for job in (lace((MIDDLE, "net"), base="felt"), job_of(MIDDLE, base="none")):
        assert "wash_away" not in {one["kind"] for one in report(build_job(job))["steps"]}
    patch = job_of(MIDDLE, base="none")
    patch = change(patch, pieces=[change(patch.pieces[0], construct="patch", own={"patch_ground": "fill"})])
    assert [one["kind"] for one in report(build_job(patch))["steps"] if one.get("when") == "after"] == ["poke_out"]
