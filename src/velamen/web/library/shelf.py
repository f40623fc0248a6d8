"""The shelves of recipes and typefaces: what there is, as pictures, brought in and taken away."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views import View
from django.views.decorators.cache import cache_control
from django.views.decorators.http import require_GET, require_POST

from velamen.core.artwork.lettering import LONGEST
from velamen.core.artwork.typeface import TYPEFACES
from velamen.core.constructions import construction
from velamen.core.errors import BadInput
from velamen.core.lengths import read_length
from velamen.core.materials.records import KINDS
from velamen.web.library import models, recipes, typefaces
from velamen.web.library.rows import shop_library
from velamen.web.library.specimens import specimen

MOST_HEIGHT = 300.0  # mm of letters


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


class TypefacesView(View):
    """The shelf of typefaces, where one is brought in."""

    def get(self, request: HttpRequest) -> HttpResponse:
        return self._show(request)

    def post(self, request: HttpRequest) -> HttpResponse:
        upload = request.FILES.get("file")
        try:
            if upload is None:
                raise BadInput("Choose the file of a typeface first.")
            kept = typefaces.keep(request.shop, upload, request.POST.get("licence", ""),
                                  bool(request.POST.get("allowed")))  # fmt: skip
        except BadInput as error:
            return self._show(request, str(error), status=422)
        messages.success(request, f"{kept.name} is on the shelf: Artwork sets lettering in it.")
        return redirect("typefaces")

    def _show(self, request: HttpRequest, wrong: str = "", status: int = 200) -> HttpResponse:
        context = {
            "kinds": KINDS.values(), "own": models.Typeface.objects.filter(shop=request.shop).defer("data"),
            "shipped": [(name, specimen(key)) for key, name in TYPEFACES.items()],
            "wrong": wrong, "licence": request.POST.get("licence", ""),
        }  # fmt: skip
        context["own"] = [(one, specimen(one.key)) for one in context["own"]]
        return render(request, "library/typefaces.html", context, status=status)


@require_GET
def typefaces_judged(request: HttpRequest) -> HttpResponse:
    """How a text does in each typeface at a height, sewn as a construction that judges that."""
    asked = request.GET.get
    try:
        kind, height = construction(asked("construct", "")), read_length(asked("height", ""), request.unit)
        text = asked("text", "")[:LONGEST]
        if kind.judges is None or not text.strip() or not 0 < height <= MOST_HEIGHT:
            return JsonResponse({})
    except (BadInput, ValueError):
        return JsonResponse({})
    found = {}
    for key in typefaces.on_offer(request.shop):
        try:
            one = kind.judges(text, key, height)
            found[key] = {"fits": one.fits, "told": one.told}
        except BadInput as error:
            found[key] = {"fits": False, "told": str(error)}
    return JsonResponse(found)


@require_POST
def remove_typeface(request: HttpRequest, key: str) -> HttpResponse:
    """Takes a typeface off the shelf."""
    typefaces.remove(request.shop, key)
    return redirect("typefaces")


@require_POST
def remove_recipe(request: HttpRequest, recipe: int) -> HttpResponse:
    """Removes a recipe of the shop; jobs keep the pieces they have of it."""
    get_object_or_404(models.Recipe, pk=recipe, shop=request.shop).delete()
    return redirect("recipes")
