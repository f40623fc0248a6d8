"""Effects: what an operation changes in what lies there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import shapely
from msgspec.structs import replace

from velamen.core.geometry.region import Area
from velamen.core.memo import Same
from velamen.core.timeline.layers import TOPPING, Layer

KEPT_UNDER_OPENING = ("stabilizer",)  # an opening is cut through base and cloth, not through what bears the bars


class Means(StrEnum):
    """How something is taken away: hands and heat reach what lies open, water reaches everything."""

    HANDS = "hands"
    HEAT = "heat"
    WATER = "water"


@dataclass(frozen=True)
class Lays:
    """Layers laid on top of everything there, the first one lowest."""

    layers: tuple[Layer, ...]


@dataclass(frozen=True)
class CutsBack:
    """What a piece has laid is cut to a region."""

    owner: str
    region: Area


@dataclass(frozen=True)
class TakesAway:
    """Layers of a kind are torn, washed or ironed away."""

    kind: str
    owners: tuple[str, ...] = ()  # pieces whose layers it takes; () whoever laid them
    region: Area | None = None  # within which it takes them, None wholly
    keeps: Area | None = None  # what stays all the same: foam under the satin that has cut it
    means: Means = Means.HANDS


@dataclass(frozen=True)
class Opens:
    """An opening cut through all that lies within a region but the kinds that are kept."""

    region: Area
    keeps: tuple[str, ...] = KEPT_UNDER_OPENING


@dataclass(frozen=True)
class Presses:
    """Pile pressed down by open stitching within a region."""

    region: Area


@dataclass(frozen=True)
class Slits:
    """All layers that a piece has laid of a kind, but the lowest of them, slit within a region."""

    owner: str
    kind: str
    region: Area


Effect = Lays | CutsBack | TakesAway | Opens | Presses | Slits


def after(layers: Sequence[Layer], effect: Effect) -> list[Layer]:
    """What lies there once an effect has taken place.

    >>> towel, film = Layer("base", "terry", "terry towel"), Layer("topping", "film", "film")
    >>> [layer.key for layer in after([towel], Lays((film,)))]
    ['terry', 'film']
    >>> [layer.key for layer in after([towel, film], TakesAway("topping"))]
    ['terry']
    """
    left = [one for one in changed(layers, effect) if one is not None]
    return [*left, *effect.layers] if isinstance(effect, Lays) else left


def changed(layers: Sequence[Layer], effect: Effect) -> list[Layer | None]:
    """What becomes of each of some layers, None where nothing is left of it."""
    match effect:
        case Lays():
            return list(layers)
        case CutsBack(owner, region):
            return [_cut_back(Same(one), Same(region)) if owner in one.owners else one for one in layers]
        case TakesAway():
            return [_taken(layers, nth, effect) for nth in range(len(layers))]
        case Opens(region, keeps):
            return [one if one.kind in keeps else _opened(Same(one), Same(region)) for one in layers]
        case Presses(region):
            return [_pressed(Same(one), Same(region)) if one.pile > 0 else one for one in layers]
        case Slits(owner, kind, region):
            mine = [nth for nth, one in enumerate(layers) if one.kind == kind and owner in one.owners]
            return [replace(one, slit=region) if nth in mine[1:] else one for nth, one in enumerate(layers)]


def _taken(layers: Sequence[Layer], nth: int, taken: TakesAway) -> Layer | None:
    """What is left of a layer, some of it perhaps trapped under later ones."""
    layer = layers[nth]
    if layer.kind != taken.kind or (taken.owners and not set(taken.owners) & set(layer.owners)):
        return layer
    over = [
        one.region for one in layers[nth + 1 :] if one.kind not in (TOPPING, layer.kind) and one.region is not None
    ]
    stays = [] if taken.means is Means.WATER else over
    return _left(layer, taken.region, stays, taken.keeps)


def _left(layer: Layer, region: Area | None, trapped: list[Area], keeps: Area | None) -> Layer | None:
    """What stays of a layer: what lies outside a region, what is to stay, what is trapped under later layers."""
    stays = trapped if keeps is None else [*trapped, keeps]
    under = shapely.union_all(stays) if stays else None
    if under is not None and layer.region is not None:
        under = shapely.intersection(under, layer.region)
    if region is None:
        return None if under is None or under.is_empty else replace(layer, region=under, trapped=bool(trapped))
    gone = region if under is None else shapely.difference(region, under)
    return layer if gone.is_empty else _opened(Same(layer), Same(gone))


# Kept, so that a layer changed in the same way is the same object: what is worked out on it stays known.
@lru_cache(maxsize=4096)
def _cut_back(layer: Same[Layer], region: Same[Area]) -> Layer:
    return replace(layer.it, region=region.it)


@lru_cache(maxsize=4096)
def _opened(layer: Same[Layer], region: Same[Area]) -> Layer:
    gone = region.it if layer.it.gone is None else shapely.union(layer.it.gone, region.it)
    return replace(layer.it, gone=gone)


@lru_cache(maxsize=4096)
def _pressed(layer: Same[Layer], region: Same[Area]) -> Layer:
    pressed = region.it if layer.it.pressed is None else shapely.union(layer.it.pressed, region.it)
    return replace(layer.it, pressed=pressed)
