"""The shelf of recipes: what there is, as pictures, and one taken from it."""

from __future__ import annotations

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from velamen.core.errors import BadInput
from velamen.core.materials.records import KINDS
from velamen.web.library import models, recipes
from velamen.web.library.rows import shop_library


@require_GET
def recipe_shelf(request: HttpRequest) -> HttpResponse:
    """Recipes of the shop, and those that are shipped."""
    context = {"kinds": KINDS.values(), "recipes": recipes.on_offer(request.shop)}
    return render(request, "library/recipes.html", context)


@require_GET
@cache_control(private=True, max_age=300)
def recipe_picture(request: HttpRequest, key: str) -> HttpResponse:
    """A recipe round a small design; that alone where the key is "none"."""
    try:
        recipe = None if key == "none" else recipes.wanted(request.shop, key)
        drawn = recipes.picture(recipe, shop_library(request.shop))
    except BadInput as error:
        raise Http404 from error
    return HttpResponse(drawn, content_type="image/png")


@require_POST
def remove_recipe(request: HttpRequest, recipe: int) -> HttpResponse:
    """Removes a recipe of the shop; jobs keep the pieces they have of it."""
    get_object_or_404(models.Recipe, pk=recipe, shop=request.shop).delete()
    return redirect("recipes")
