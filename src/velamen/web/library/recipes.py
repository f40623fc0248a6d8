"""Recipes of a shop, beside those that are shipped: kept, found by key, put round a design, and shown as pictures."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import shapely
from django.db import IntegrityError, transaction

from velamen.core.building.build import build_job
from velamen.core.building.job_materials import take_rows
from velamen.core.edits.stack.recipes import recipe_of, shipped_recipes, with_recipe
from velamen.core.errors import BadInput
from velamen.core.geometry.region import rings_of
from velamen.core.job.document import Brief, Job, Piece, change, check_brief
from velamen.core.job.recipe import Recipe, read_recipe, write_recipe
from velamen.core.job.shape import Shape
from velamen.core.materials.library import Library
from velamen.core.outputs.picture import preview_png
from velamen.web.accounts.models import Shop
from velamen.web.library import models

MOST_RECIPES = 100
PICTURE = 240  # px
SAMPLE = (  # a small design of two colours that a recipe is shown round
    (shapely.box(-13, -7, 13, 7).buffer(3), "140"), (shapely.Point(0, 0).buffer(5.5), "103"),
)  # fmt: skip
SHOWN = (-42.0, -31.5, 42.0, 31.5)  # mm


@dataclass(frozen=True)
class Kept:
    """A recipe on a shelf."""

    key: str  # of a shipped one, or the number of one of the shop's
    recipe: Recipe
    own: bool = False


def on_offer(shop: Shop) -> list[Kept]:
    """The shop's own recipes by name, but those that cannot be read any more, then those that are shipped."""
    own = []
    for row in models.Recipe.objects.filter(shop=shop):
        try:
            own.append(Kept(str(row.pk), read_recipe(bytes(row.body)), own=True))
        except BadInput:
            continue
    return [*own, *(Kept(key, recipe) for key, recipe in shipped_recipes().items())]


def wanted(shop: Shop, key: str) -> Recipe:
    """A recipe by its key. Raises BadInput where the shop has none such."""
    found = next((one.recipe for one in on_offer(shop) if one.key == key), None)
    if found is None:
        raise BadInput("That recipe is no longer in the library: reload the page.")
    return found


def keep(shop: Shop, document: Job, name: str) -> Recipe:
    """Keeps how a job is built round its design; a recipe of that name is replaced."""
    recipe = recipe_of(document, name)
    rows = models.Recipe.objects.filter(shop=shop)
    if rows.exclude(name=recipe.name).count() >= MOST_RECIPES:
        raise BadInput(f"A shop keeps at most {MOST_RECIPES} recipes: remove one in the library first.")
    try:
        with transaction.atomic():
            models.Recipe.objects.update_or_create(
                shop=shop, name=recipe.name, defaults={"body": write_recipe(recipe)}
            )
    except IntegrityError:
        raise BadInput(f"A recipe called {recipe.name!r} was kept just now: choose another name.") from None
    return recipe


def put_round(document: Job, recipe: Recipe, library: Library, piece_ids: list[str]) -> Job:
    """The document with a recipe round its design, in the rows that the library has of its materials."""
    cloths, threads = ({getattr(one, key) for one in recipe.parts} for key in ("cloth", "thread"))
    threads |= {key for one in recipe.parts for key in one.threads.values()}
    document = take_rows(document, library, {
        "cloths": cloths & library.cloths.keys(), "threads": threads & library.threads.keys(),
    })  # fmt: skip
    return with_recipe(document, recipe, piece_ids)


def brief_of(recipe: Recipe, library: Library) -> Brief | None:
    """On what a new job of a recipe is sewn; None where it says nothing, or the library knows it no longer."""
    try:
        return check_brief(recipe.brief, library) if recipe.brief else None
    except BadInput:
        return None


def picture(recipe: Recipe | None, library: Library) -> bytes:
    """A PNG of a recipe round a small design, or of that alone."""
    return _picture(write_recipe(recipe) if recipe else b"", library)


@lru_cache(maxsize=64)
def _picture(body: bytes, library: Library) -> bytes:
    recipe = read_recipe(body) if body else None
    shapes = [Shape(f"s{nth}", "Design", [[(float(x), float(y)) for x, y in ring] for ring in rings_of(region)])
              for nth, (region, _) in enumerate(SAMPLE)]  # fmt: skip
    pieces = [Piece(f"d{nth}", "Design", f"s{nth}", "fill", thread=thread if thread in library.threads else
                    next(iter(library.threads))) for nth, (_, thread) in enumerate(SAMPLE)]  # fmt: skip
    brief = (brief_of(recipe, library) if recipe else None) or Brief()
    job = Job(brief=change(brief, hold="none"), shapes=shapes, pieces=pieces)
    job = put_round(job, recipe, library, []) if recipe else job
    return preview_png(build_job(job), widest=PICTURE, box=SHOWN)
