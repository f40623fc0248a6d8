"""Recipes over the web: kept from a job, put round another, shown on their shelf and begun with."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from shapely import Point, box

from core.jobs import job_of
from velamen.core.edits.stack.recipes import shipped_recipes, with_recipe
from velamen.core.job.document import change
from velamen.web.jobs import history
from velamen.web.jobs.pictures import job_picture
from velamen.web.library.models import Recipe


@pytest.fixture
def badge(shop, maren):
    job = job_of(box(-12, -9, 12, 9), Point(0, -20).buffer(7), base="none", name="Badge")
    design = change(job, pieces=[change(one, construct="fill") for one in job.pieces])
    host = change(with_recipe(design, shipped_recipes()["trimmed_badge"]).pieces[0], own={"patch_margin": 9.0})
    return history.create(shop, maren, change(design, pieces=[host, *design.pieces]))


def put(client, job, **values):
    job.refresh_from_db()
    sent = {"revision": job.head.number, **values}
    return client.post(reverse("edit-stack", args=[job.pk]), sent, HTTP_HX_REQUEST="true")


def test_a_recipe_is_kept_shown_put_round_another_design_and_removed(signed_in, badge, job, shop):
    kept = signed_in.post(reverse("keep-recipe", args=[badge.pk, "p1"]), {"name": "Crew  edge", "open": "add"})
    assert "Kept as Crew edge" in kept.content.decode()
    (row,) = Recipe.objects.filter(shop=shop)
    page = signed_in.get(reverse("recipes")).content.decode()
    assert "Crew edge" in page and "Name panel for towels" in page
    drawn = signed_in.get(reverse("recipe-picture", args=[row.pk]))
    assert drawn["Content-Type"] == "image/png" and drawn.content.startswith(b"\x89PNG")
    assert put(signed_in, job, do="recipe", by=str(row.pk), round="all").status_code == 200
    job.refresh_from_db()
    made = next(one for one in job.head.read().pieces if one.construct == "patch")
    assert made.own == {"patch_margin": 9.0} and job.head.label == "Crew edge put round it"
    signed_in.post(reverse("keep-recipe", args=[job.pk, "p1"]), {"name": "Crew edge"})
    assert Recipe.objects.filter(shop=shop).count() == 1
    signed_in.post(reverse("remove-recipe", args=[row.pk]))
    assert not Recipe.objects.exists()
    assert put(signed_in, job, do="recipe", by=str(row.pk)).status_code == 422


def test_what_cannot_be_kept_is_told(signed_in, job):
    answer = signed_in.post(reverse("keep-recipe", args=[job.pk, "p1"]), {"name": "Plain"})
    assert answer.status_code == 422 and "Nothing in this job goes round a design" in answer.content.decode()


def test_a_recipe_that_cannot_be_read_any_more_is_passed_over(signed_in, shop):
    Recipe.objects.create(shop=shop, name="Old", body=b'{"velamen_recipe": 9}')
    assert "Badge on film" in signed_in.get(reverse("recipes")).content.decode()
    assert signed_in.get(reverse("new-job")).status_code == 200


def test_recipes_of_another_shop_are_neither_seen_nor_touched(client, signed_in, badge, stranger, shop):
    signed_in.post(reverse("keep-recipe", args=[badge.pk, "p1"]), {"name": "Ours"})
    row = Recipe.objects.get(shop=shop)
    client.force_login(stranger)
    assert "Ours" not in client.get(reverse("recipes")).content.decode()
    assert client.get(reverse("recipe-picture", args=[row.pk])).status_code == 404
    assert client.post(reverse("remove-recipe", args=[row.pk])).status_code == 404
    assert client.post(reverse("new-job"), {"name": "A", "base": "terry", "recipe": str(row.pk)}).status_code == 200
    assert Recipe.objects.filter(pk=row.pk).exists()


@pytest.mark.parametrize("key", shipped_recipes())
def test_a_new_job_is_built_as_a_recipe_says(signed_in, shop, key):
    art = SimpleUploadedFile("buoy.svg", b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" '
                             b'viewBox="0 0 40 30"><rect width="40" height="30"/></svg>')  # fmt: skip
    answer = signed_in.post(reverse("new-job"), {"name": "Buoy", "base": "fleece", "recipe": key, "artwork": art})
    made = shop.jobs.get(name="Buoy")
    assert answer.status_code == 302 and answer["Location"] == reverse("build", args=[made.pk])
    document, recipe = made.head.read(), shipped_recipes()[key]
    assert document.brief.base == recipe.brief.base and document.pieces[0].own == recipe.parts[0].own
    bare = signed_in.post(reverse("new-job"), {"name": "Later", "base": "fleece", "recipe": key}, follow=True)
    assert f"Build puts {recipe.name} round it" in bare.content.decode()


def test_the_board_shows_the_cloth_of_a_patch_under_its_design(badge):
    drawn = job_picture(badge.head.read())
    assert drawn.count("<path") == 3
    assert drawn.index("<title>Badge</title>") < drawn.index("<title>piece 1</title>")
