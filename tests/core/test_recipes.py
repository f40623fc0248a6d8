"""Recipes: what stands round a design kept without it, and put round others."""

import pytest
import shapely
from shapely import Point, Polygon, box

from core.jobs import job_of
from core.shapes import SHAPES
from velamen.core.artwork.framed import FORMS, framed
from velamen.core.building.build import build_job
from velamen.core.edits.shapes.live_shapes import followed
from velamen.core.edits.stack.grounds import with_ground, with_name_piece
from velamen.core.edits.stack.recipes import design_of, recipe_of, shipped_recipes, with_recipe
from velamen.core.errors import BadInput
from velamen.core.job.document import change
from velamen.core.job.reading import check_job
from velamen.core.job.recipe import Part, Recipe, check_recipe, read_recipe, write_recipe

DESIGNS = {
    "box and dot": [box(-12, -9, 12, 9), Point(0, -20).buffer(7)],
    "star": [SHAPES["star"]],
    "bar": [box(-35, -4, 35, 4)],
    "slivers": [Polygon([(-20, 0), (20, 0.4), (20, 0.7)]), Point(-15, 9).buffer(1.2), Point(17, -6).buffer(1.5)],
}


def design(name="box and dot", base="firm_woven"):
    job = job_of(*DESIGNS[name], base=base, hoop="h360x200")
    return change(job, pieces=[change(one, construct="fill") for one in job.pieces])


@pytest.mark.parametrize("name", DESIGNS)
@pytest.mark.parametrize("key", [key for key, one in shipped_recipes().items() if not one.parts[0].same])
def test_every_recipe_that_is_shipped_goes_round_any_design(key, name):
    recipe = shipped_recipes()[key]
    job = check_job(with_recipe(change(design(name), brief=change(recipe.brief, hoop="h360x200")), recipe))
    build = build_job(job)
    assert len(job.pieces) == len(DESIGNS[name]) + len(recipe.parts) and not build.lost
    assert not [one.code for one in build.findings if one.severity == "error"]
    inner = shapely.union_all(DESIGNS[name])
    assert all(one.work.region.contains(inner) for one in build.pieces if one.piece.name == recipe.parts[0].name)
    assert recipe.about and recipe_of(job, recipe.name).parts[0].own == recipe.parts[0].own


@pytest.mark.parametrize("name", DESIGNS)
def test_a_recipe_of_the_design_itself_makes_every_shape_of_it_part_after_part(name):
    recipe = shipped_recipes()["glitter_foam"]
    before = change(design(name), brief=change(recipe.brief, hoop="h360x200"))
    job = check_job(with_recipe(before, recipe))
    shapes = [one.shape for one in before.pieces]
    assert [one.construct for one in job.pieces] == [part.construct for part in recipe.parts for _ in shapes]
    assert [one.shape for one in job.pieces] == shapes * len(recipe.parts) and job.shapes == before.shapes
    build = build_job(job)
    assert not build.lost and [one.step.kind for one in build.plan.stops] == ["lay", "tear_foam"] * 2


def layered():
    """A patch with a contrast border round it, both round a design of two pieces, and a name piece's cloth."""
    job = with_ground(design(), "patch")
    patch = change(job.pieces[0], own={"patch_way": "trimmed", "patch_margin": 8.0}, cloth="night_ink", thread="140")
    job = change(job, pieces=[patch, *job.pieces[1:]])
    return with_ground(job, "contrast", [patch.id])


def test_a_recipe_keeps_pieces_values_and_what_goes_round_what():
    job = layered()
    recipe = read_recipe(write_recipe(recipe_of(job, "  Double   edge ", "for crews")))
    assert (recipe.name, recipe.about, recipe.brief) == ("Double edge", "for crews", job.brief)
    assert [one.construct for one in recipe.parts] == [one.construct for one in job.pieces if not one.shape]
    after = with_recipe(design("star"), recipe)
    made = [one for one in after.pieces if not one.shape]
    kept = [one for one in job.pieces if not one.shape]
    assert [(one.own, one.cloth, one.thread, one.name) for one in made] == [
        (one.own, one.cloth, one.thread, one.name) for one in kept
    ]
    by_kind = {one.construct: one for one in made}
    assert by_kind["contrast"].around == [by_kind["patch"].id] and by_kind["patch"].around == ["*"]
    assert not build_job(after).lost


def test_a_live_outline_comes_along_and_follows():
    job = with_name_piece(design(), ["s1", "s2"])
    cloth, *others = job.pieces
    job = change(job, pieces=[change(cloth, own={"cover_width": 5.0}), *(change(one, on=cloth.id) for one in others)])
    recipe = recipe_of(job, "Name")
    after = with_recipe(design("bar"), recipe)
    cloth, letter = after.pieces
    assert cloth.own == {"cover_width": 5.0} and letter.on == cloth.id and after.makers[0].distance == 22.0
    shapes = [change(one, rings=[[(2 * x, y) for x, y in ring] for ring in one.rings]) if one.id == letter.shape else one
              for one in after.shapes]  # fmt: skip
    wide = followed(change(after, shapes=shapes))
    assert build_job(wide).piece(cloth.id).work.region.bounds[2] > 85
    oval = change(job, makers=[change(job.makers[0], form="oval", wide=200.0)])
    (maker,) = with_recipe(design("bar"), recipe_of(oval, "Oval name")).makers
    assert (maker.form, maker.wide, maker.distance) == ("oval", 200.0, 22.0)


@pytest.mark.parametrize("form", [key for key, _ in FORMS if key != "calm"])
def test_a_badge_on_a_shape_of_its_own_finds_the_like_of_it_round_another_design(form):
    drawn = framed(DESIGNS["box and dot"], form, 7.0, 0.0, 0.0)
    job = job_of(drawn, *DESIGNS["box and dot"], base="none")
    host, *guests = job.pieces
    job = change(job, pieces=[change(host, construct="patch"),
                              *(change(one, construct="fill", on=host.id) for one in guests)])  # fmt: skip
    (part,) = recipe_of(job, "Badge").parts
    assert part.own["patch_outline"] == form and part.own["patch_margin"] == pytest.approx(7.0, abs=1.5)
    assert design_of(job) == job.pieces[1:]


def test_only_chosen_pieces_may_be_gone_round():
    job = with_recipe(design(), shipped_recipes()["badge_on_film"], ["p2"])
    badge = next(one for one in job.pieces if one.construct == "patch")
    assert badge.around == ["p2"] and job.pieces.index(badge) == 1
    build = build_job(job)
    assert build.host_of("p2") == badge.id and build.host_of("p1") == ""


def test_what_cannot_be_is_told():
    with pytest.raises(BadInput, match="Nothing in this job"):
        recipe_of(design(), "Plain")
    with pytest.raises(BadInput, match="bring in artwork first"):
        with_recipe(change(design(), pieces=[], shapes=[]), shipped_recipes()["cap_patch"])
    with pytest.raises(BadInput, match="needs a name"):
        recipe_of(layered(), "   ")
    with pytest.raises(BadInput, match="does not have"):
        check_recipe(Recipe("One", [Part("p1", "patch", around=["p9"])]))
    for data in (b"{", b'{"name": "A", "parts": [], "more": 1}', b'{"name": "A", "parts": []}', b"\xff"):
        with pytest.raises(BadInput):
            read_recipe(data)


def test_materials_and_values_that_are_gone_are_passed_over():
    part = Part("p1", "patch", cloth="gone", thread="gone", own={"patch_margin": 9.0, "patch_gone": 1.0})
    job = with_recipe(design(), Recipe("Old", [part]))
    badge = job.pieces[0]
    assert badge.own == {"patch_margin": 9.0} and badge.cloth in job.library.cloths
    assert not build_job(job).lost
