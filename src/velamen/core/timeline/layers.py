"""Layers: materials and where they lie, and what an area is sewn on, by share of the area."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from operator import eq, gt, le

import shapely
from msgspec import Struct
from msgspec.structs import replace

from velamen.core.geometry.region import Area as Area
from velamen.core.materials.records import MARKS, STRETCH, UNDERLAYS

BASE, STABILIZER, TOPPING, FOAM, CLOTH = "base", "stabilizer", "topping", "foam", "cloth"
GRAIN = 1e-3  # share of an area below which a part is a rounding error
UNDER_TOPPING = 1.0 / 3.0  # of the pile stays up under a topping (handbook, section 3)
RANKS = {  # from the least demanding to the most
    "stretch": [key for key, _ in STRETCH],
    "underlay": [key for key, _ in UNDERLAYS],
    "marks": [key for key, _ in MARKS],
}


class Layer(Struct, frozen=True):
    """One material lying in the stack. Lengths in mm."""

    kind: str  # stabilizer, base, topping, foam, cloth, or what a construction lays
    key: str  # in the library, of that kind
    name: str
    thickness: float = 0.0
    pile: float = 0.0
    stretch: str = "none"
    pull: float = 0.0
    satin_spacing: float = 0.40
    underlay: str = "none"
    marks: str = "none"
    owners: tuple[str, ...] = ("",)  # ids of the pieces that laid it, "" for the brief; of a shared sheet several
    region: Area | None = None  # where it lies, None for everywhere
    gone: Area | None = None  # where it no longer lies: an opening, or torn away
    pressed: Area | None = None  # where its pile is pressed down
    slit: Area | None = None  # where it is slit
    trapped: bool = False  # what could not be taken away, since it lies under something later

    def placed(self, region: Area | None, owner: str) -> Layer:
        """The same material lying in a region, laid by a piece."""
        return replace(self, region=region, owners=(owner,))


NOTHING = Layer("none", "nothing", "nothing at all")  # what a pass over an opening is sewn on


class Under(Struct, frozen=True):
    """What one part of an area is sewn on."""

    surface: Layer | None  # the uppermost material that is no topping, None where nothing lies
    topped: bool  # whether a topping lies on it
    foam: float  # mm of foam under the needle, cloth over it or not
    share: float  # of the whole area
    pressed: bool = False  # whether its pile was pressed down by open stitching

    @property
    def pile(self) -> float:
        """Pile in mm that stands up here, a topping on it counted."""
        if self.surface is None:
            return 0.0
        return self.surface.pile * (UNDER_TOPPING if self.topped else 1.0)


def parted(layers: Sequence[Layer], footprint: Area) -> tuple[Under, ...]:
    """An area divided by what it is sewn on, largest share first; shares add up to 1.

    layers: what lies there, lowest first. An empty footprint gives nothing.
    """
    found: dict[tuple[int, bool, float, bool], float] = {}
    for top, marked, share in _shares(footprint, layers):
        marking = [layers[one] for one in marked if one >= 0]
        foam = sum([one.thickness for one in marking if one.kind == FOAM])
        key = (top, any(one.kind == TOPPING for one in marking), foam, -1 in marked)
        found[key] = found.get(key, 0.0) + share
    parts = [
        Under(layers[top] if top >= 0 else None, topped, foam, share, pressed)
        for (top, topped, foam, pressed), share in found.items()
    ]
    return tuple(sorted(parts, key=lambda under: -under.share))


Share = tuple[int, tuple[int, ...], float]
"""The uppermost layer by number, -1 for none; foams under and toppings over it, -1 for pressed pile; the share."""
_kept: dict[tuple[object, ...], tuple[object, tuple[Share, ...]]] = {}
KEPT = 8192


def _shares(footprint: Area, layers: Sequence[Layer]) -> tuple[Share, ...]:
    """Parts of an area by what lies there, kept by the identity of the areas.

    Those are held along with the answer, so that no other area can take their place.
    """
    mark = (
        id(footprint),
        *[(one.kind if one.kind in (FOAM, TOPPING) else "", id(one.region), id(one.gone), id(one.pressed))
          for one in layers],
    )  # fmt: skip
    known = _kept.get(mark)
    if known is None:
        if len(_kept) >= KEPT:
            _kept.clear()
        known = _kept[mark] = (footprint, tuple(layers)), _work_out_shares(footprint, layers)
    return known[1]


def _work_out_shares(footprint: Area, layers: Sequence[Layer]) -> tuple[Share, ...]:
    """Taken from the uppermost layer down, so that buried ones cost nothing."""
    rest: Area | None = footprint
    total = float(footprint.area)
    if total <= 0.0:
        return ()
    parts: list[tuple[int, tuple[int, ...], Area]] = []
    for nth in range(len(layers) - 1, -1, -1):
        if rest is None:
            break
        if layers[nth].kind != TOPPING:
            inside, rest = _split(rest, layers[nth], total)
            if inside is not None:
                parts.append((nth, (), inside))
    if rest is not None:
        parts.append((-1, (), rest))
    # What lies under the surface or on it without being one itself divides the parts once more.
    for nth, layer in enumerate(layers):
        if layer.kind == FOAM:
            parts = _marked(parts, nth, layer, total, partial(le, nth))
        elif layer.kind == TOPPING:
            parts = _marked(parts, nth, layer, total, partial(gt, nth))
        if layer.pressed is not None:
            lying = replace(layer, region=layer.pressed, gone=None)
            parts = _marked(parts, -1, lying, total, partial(eq, nth))
    whole = sum(float(area.area) for _, _, area in parts)
    return tuple((top, marked, float(area.area) / whole) for top, marked, area in parts)


def _marked(
    parts: list[tuple[int, tuple[int, ...], Area]], mark: int, layer: Layer, total: float, asks: Callable[[int], bool]
) -> list[tuple[int, tuple[int, ...], Area]]:
    """Parts divided by whether a layer lies there too, those of surfaces that it concerns."""
    divided: list[tuple[int, tuple[int, ...], Area]] = []
    for top, marked, area in parts:
        inside, outside = _split(area, layer, total) if asks(top) else (None, area)
        divided += [(top, (*marked, mark), inside)] if inside is not None else []
        divided += [(top, marked, outside)] if outside is not None else []
    return divided


def _split(area: Area, layer: Layer, total: float) -> tuple[Area | None, Area | None]:
    """What of an area a layer lies on and what not; None for less than a grain."""
    inside, outside = _split_by(area, layer.region, total)
    if inside is None or layer.gone is None:
        return inside, outside
    bared, inside = _split_by(inside, layer.gone, total)
    if bared is None or outside is None:
        return inside, bared if outside is None else outside
    return inside, shapely.union(outside, bared)


def _split_by(area: Area, region: Area | None, total: float) -> tuple[Area | None, Area | None]:
    """What of an area lies in a region and what does not; None for less than a grain."""
    if region is None:
        return area, None
    if not shapely.intersects(region, area):
        return None, area
    if shapely.covers(region, area):
        return area, None
    inside, outside = shapely.intersection(area, region), shapely.difference(area, region)
    return (
        inside if inside.area > GRAIN * total else None,
        outside if outside.area > GRAIN * total else None,
    )


def forget_shares() -> None:
    """Drops the shares worked out so far."""
    _kept.clear()


def worst(unders: Sequence[Under], least: float = 0.02) -> dict[str, float | str | bool]:
    """Traits of the worst among what lies under a pass, as rules ask for them.

    Parts below the share `least` are left out. Every trait is the more demanding one: the
    higher pile, pull, stretch and underlay, the closer spacing.
    """
    counted = [(under.surface or NOTHING, under) for under in unders if under.share >= least]
    if not counted:
        return {}
    surfaces = [surface for surface, _ in counted]
    if len(surfaces) == 1:
        (only,) = surfaces
        stretch, underlay, marks = only.stretch, only.underlay, only.marks
    else:
        stretch = max([layer.stretch for layer in surfaces], key=RANKS["stretch"].index)
        underlay = max([layer.underlay for layer in surfaces], key=RANKS["underlay"].index)
        marks = max([layer.marks for layer in surfaces], key=RANKS["marks"].index)
    return {
        "under_pile": max([under.pile for _, under in counted]),
        "under_pull": max([layer.pull for layer in surfaces]),
        "under_stretch": stretch,
        "under_satin_spacing": min([layer.satin_spacing for layer in surfaces]),
        "under_underlay": underlay,
        "under_marks": marks,
        "under_foam": max([under.foam for _, under in counted]),
        "under_pressed": {under.pressed for surface, under in counted if surface.pile > 0} == {True},
        "under_kinds": float(len({layer.key for layer in surfaces})),
        "under_words": _words([under for _, under in counted]),
    }


def _words(unders: Sequence[Under]) -> str:
    """Names of the surfaces with their shares: "60 % polar fleece + 40 % otter brown cotton"."""
    shares: dict[str, float] = {}
    for under in unders:
        surface = under.surface or NOTHING
        name = surface.name + (" over foam" if under.foam and surface.kind != FOAM else "")
        shares[name] = shares.get(name, 0.0) + under.share
    if len(shares) == 1:
        return next(iter(shares))
    total = sum(shares.values())
    ordered = sorted(shares.items(), key=lambda item: -item[1])
    return " + ".join(f"{100 * share / total:.0f} % {name}" for name, share in ordered)
