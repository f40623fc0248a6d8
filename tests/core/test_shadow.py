"""Shadow appliqué: a sheer cloth over what is sewn first, seen through it in every picture, told where it cannot be."""

import io

import numpy as np
import pytest
import shapely
from PIL import Image
from shapely import Point, box

from core.jobs import job_of
from velamen.core.artwork.svg import read_svg
from velamen.core.building.build import build_job
from velamen.core.edits.stack.grounds import with_sheer_over
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.outputs.laid import sheets_of
from velamen.core.outputs.picture import preview_png
from velamen.core.outputs.plan_binary import plan_binary


def seaweed():
    job = job_of(box(-30, -8, -10, 8), Point(15, 0).buffer(10), base="firm_woven", hoop="h130x180")
    return change(job, pieces=[change(one, construct="fill", thread="140") for one in job.pieces])


def codes(job):
    return [one.code for one in build_job(job).findings]


def test_a_sheer_cloth_is_laid_over_chosen_pieces_in_one_step():
    after = with_sheer_over(seaweed(), ["p1", "p2"])
    hosts = [one for one in after.pieces if one.own.get("shadow")]
    assert hosts and all(after.library.cloths[one.cloth].like == "sheer" for one in hosts)
    assert {one.on for one in after.pieces if one.construct == "fill"} == {one.id for one in hosts}
    build = build_job(after)
    keys = [one.key for one in build.operations if one.piece]
    lays = max(keys.index(f"{one.id}:lay") for one in hosts)
    assert lays > max(keys.index(key) for key in keys if key.endswith(":decoration"))
    assert not {"shadow_opaque", "shadow_empty"} & {one.code for one in build.findings} and not build.lost


def test_what_lies_under_shows_through_in_pictures_and_in_the_browser():
    after = with_sheer_over(seaweed(), ["p1", "p2"])
    opaque = change(
        after, pieces=[change(one, cloth="deck_cream") if one.own.get("shadow") else one for one in after.pieces]
    )

    def reddest(job):
        picture = np.asarray(
            Image.open(io.BytesIO(preview_png(build_job(job), None, 300, (-40, -20, 40, 20)))).convert("RGB")
        )
        return int((picture[..., 0].astype(int) - picture[..., 1]).max())

    assert reddest(after) > 25 > reddest(opaque)
    (sheet, *_) = [one for one in sheets_of(build_job(after)) if one.is_cloth]
    assert sheet.shown.clear > 0.4 and b'"clear"' in plan_binary(build_job(after))
    assert b'"clear"' not in plan_binary(build_job(opaque))


def test_opaque_cloth_over_decoration_and_none_under_a_shadow_are_told():
    after = with_sheer_over(seaweed(), ["p1"])
    host = next(one for one in after.pieces if one.own.get("shadow"))
    opaque = change(
        after, pieces=[change(one, cloth="sail_red") if one.id == host.id else one for one in after.pieces]
    )
    assert "shadow_opaque" in codes(opaque)
    bare = change(after, pieces=[change(one, on="") for one in after.pieces])
    assert "shadow_empty" in codes(bare)
    with pytest.raises(BadInput, match="Choose the pieces"):
        with_sheer_over(seaweed(), ["p9"])


KELP = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="120mm" height="120mm" viewBox="0 0 120 120">'
    '<path d="M58 110C52 90 66 76 58 56C52 40 60 26 64 12L68 13C64 28 58 40 64 56C72 76 58 90 63 110Z"/>'
    '<path d="M57 70C44 68 34 58 30 44C44 46 56 56 57 70Z"/><path d="M64 52C74 46 84 34 86 20C74 24 64 38 64 52Z"/></svg>'
)


def test_a_sheer_cloth_has_a_calm_edge_round_narrow_things_that_branch():
    regions = [one.region for one in read_svg(KELP.encode()).drawn]
    job = job_of(*regions, base="light_woven")
    build = build_job(with_sheer_over(job, [piece.id for piece in job.pieces]))
    cloth = next(one for one in build.pieces if one.piece.name == "Sheer cloth")
    assert {one.code for one in cloth.findings} & {"notch_narrow", "corners_round"} == set()
    points = shapely.points(shapely.get_coordinates(cloth.work.region.exterior))
    apart = shapely.distance(points, shapely.union_all(regions))
    assert apart.min() > 1.9 and np.median(apart) < 6.5
