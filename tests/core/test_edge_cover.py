"""Edge-cover proof, both ways: it holds on a sound build and fails on one broken on purpose."""

import numpy as np
import pytest
import shapely

from core.jobs import edge_cover_of, edge_fixes, job_of
from core.shapes import SHAPES
from velamen.core.building.build import build_job
from velamen.core.proofs.edge_cover import prove_edge_cover, wanted_width
from velamen.core.stitching.border import SatinSewing, satin_borders
from velamen.core.stitching.roles import CODE


@pytest.mark.parametrize("base", ["firm_woven", "fleece", "jersey", "terry"])
@pytest.mark.parametrize("name", SHAPES)
def test_matched_values_hide_the_edge(name, base):
    built = build_job(job_of(SHAPES[name], base=base)).pieces[0]
    # noise of a tenth of a millimetre hides a hair's breadth of it from any cover
    assert edge_cover_of(built).share >= (0.995 if name in ("coast", "needles", "spiral", "sliver") else 1.0)


@pytest.mark.parametrize(
    "own",
    [{"cover_width": 1.6}, {"cover_share": 20}, {"cover_share": 85}, {"cover_spacing": 1.2}, {"cover_pull": 0.0}],
)
def test_a_weak_cover_is_found_and_its_fix_hides_the_edge(own):
    built = build_job(job_of(SHAPES["two_holes"], own=own)).pieces[0]
    proof = edge_cover_of(built)
    assert not proof.held and proof.share < 0.9
    finding = next(finding for finding in built.findings if finding.code == "edge_bare")
    assert finding.at and finding.fix
    fixed = build_job(job_of(SHAPES["two_holes"], own={**own, **finding.fix})).pieces[0]
    assert edge_cover_of(fixed).held


def test_every_fix_offered_keeps_its_word():
    own = {"cover_width": 2.0}
    built = build_job(job_of(SHAPES["leaf"], own=own)).pieces[0]
    assert edge_fixes(built)
    for fix in edge_fixes(built):
        again = build_job(job_of(SHAPES["leaf"], own={**own, **fix.values})).pieces[0]
        assert edge_cover_of(again).share == pytest.approx(fix.share, abs=0.01)


def test_precut_cloth_needs_less():
    own = {"cover_width": 1.6}
    assert not edge_cover_of(build_job(job_of(SHAPES["square"], own=own)).pieces[0]).held
    precut = edge_cover_of(build_job(job_of(SHAPES["square"], own={**own, "precut": True})).pieces[0])
    assert precut.held and precut.error == 0.3


def test_a_gap_in_the_cover_is_found_where_it_is():
    region = SHAPES["square"]
    part = satin_borders(region, "cover", SatinSewing(1.8, 1.2, 0.4, 0.15, "none"))[0]
    line = part.xy[part.role == CODE["cover"]]
    hole = (np.abs(line[:, 0]) < 2.0) & (line[:, 1] < 0)
    first, last = np.flatnonzero(hole)[[0, -1]]
    whole = prove_edge_cover(region, [line], 1.0, 0.15, 1.95, 1.35)
    broken = prove_edge_cover(region, [line[:first], line[last + 1 :]], 1.0, 0.15, 1.95, 1.35)
    assert whole.held and not broken.held
    (place,) = broken.bare
    assert abs(place.x) < 0.5 and place.y == pytest.approx(-20, abs=0.1)
    assert 3.0 <= place.length <= 4.5
    assert shapely.LineString(place.line).length == pytest.approx(place.length, abs=0.5)


def test_the_wanted_width_leaves_what_the_error_needs():
    width = wanted_width(60, 0.4, 1.0, 0.4)
    assert width * 0.4 >= 1.0 and (width - 0.2) * 0.4 < 1.0 + 0.05
    spare = edge_cover_of(build_job(job_of(SHAPES["square"], own={"cover_width": width})).pieces[0])
    assert 0 <= spare.spare_inside < 0.1
