"""What lies where at a moment of the sew-out: the stack computed from its events.

Materials are laid, cut and taken away in order; a pass sews onto whatever lies there when
its turn comes. `beneath` answers that for any area and any moment, by share of the area.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import TypeAlias

import shapely
from shapely import MultiPolygon, Polygon

from velamen.core.materials.records import MARKS, STRETCH, UNDERLAYS

Area: TypeAlias = Polygon | MultiPolygon

GRAIN = 1e-3  # share of an area below which a part is a rounding error
UNDER_TOPPING = 1.0 / 3.0  # of the pile stays up under a topping (handbook, section 3)
RANKS = {  # from the least demanding to the most
    "stretch": [key for key, _ in STRETCH],
    "underlay": [key for key, _ in UNDERLAYS],
    "marks": [key for key, _ in MARKS],
}


@dataclass(frozen=True)
class Layer:
    """One material lying in the stack.

    kind: stabilizer, base, topping, foam or cloth; pile, thickness, pull and spacings in mm;
    owner: id of the piece that laid it, "" for what lies there from the start; region: where
    it lies, None for everywhere.
    """

    kind: str
    key: str
    name: str
    thickness: float = 0.0
    pile: float = 0.0
    stretch: str = "none"
    pull: float = 0.0
    satin_spacing: float = 0.40
    fill_spacing: float = 0.40
    underlay: str = "none"
    marks: str = "none"
    owner: str = ""
    region: Area | None = None


@dataclass(frozen=True)
class Lay:
    """A material is laid on top of everything there."""

    layer: Layer


@dataclass(frozen=True)
class Trim:
    """What a piece has laid is cut to a region."""

    owner: str
    region: Area


@dataclass(frozen=True)
class Remove:
    """Every layer of a kind is torn, washed or ironed away; only a piece's own when one is named."""

    kind: str
    owner: str = ""


@dataclass(frozen=True)
class Sew:
    """A pass of a role is sewn; it changes nothing of what lies there."""

    role: str
    owner: str = ""


Event = Lay | Trim | Remove | Sew


@dataclass(frozen=True)
class Under:
    """One way in which materials lie under an area: layers from below, and the share of the area."""

    layers: tuple[Layer, ...]
    share: float

    @property
    def surface(self) -> Layer | None:
        """The uppermost material that is no topping."""
        return next((layer for layer in reversed(self.layers) if layer.kind != "topping"), None)

    @property
    def topped(self) -> bool:
        """Whether a topping lies on the surface."""
        return bool(self.layers) and self.layers[-1].kind == "topping"

    @property
    def pile(self) -> float:
        """Pile in mm that stands up here, a topping on it counted."""
        surface = self.surface
        if surface is None:
            return 0.0
        return surface.pile * (UNDER_TOPPING if self.topped else 1.0)

    @property
    def foam(self) -> float:
        """Foam in mm that lies under the needle here, cloth over it or not."""
        return sum(layer.thickness for layer in self.layers if layer.kind == "foam")


def lying(events: Sequence[Event], position: int) -> tuple[Layer, ...]:
    """Layers lying after the first `position` events, lowest first.

    >>> towel, film = Layer("base", "terry", "terry towel"), Layer("topping", "film", "film")
    >>> [layer.key for layer in lying([Lay(towel), Lay(film), Remove("topping")], 2)]
    ['terry', 'film']
    """
    layers: list[Layer] = []
    for event in events[:position]:
        if isinstance(event, Lay):
            layers.append(event.layer)
        elif isinstance(event, Trim):
            layers = [
                replace(layer, region=event.region) if layer.owner == event.owner else layer for layer in layers
            ]
        elif isinstance(event, Remove):
            layers = [
                layer for layer in layers
                if layer.kind != event.kind or (event.owner and layer.owner != event.owner)
            ]  # fmt: skip
    return tuple(layers)


def beneath(events: Sequence[Event], position: int, footprint: Area) -> tuple[Under, ...]:
    """What lies under an area after the first `position` events, largest share first.

    Shares are of the footprint's area and add up to 1; an empty footprint gives nothing.
    """
    return parted(lying(events, position), footprint)


def parted(layers: Sequence[Layer], footprint: Area) -> tuple[Under, ...]:
    """An area divided by which layers lie under it, largest share first."""
    everywhere = [nth for nth, layer in enumerate(layers) if layer.region is None]
    placed = [nth for nth, layer in enumerate(layers) if layer.region is not None]
    regions = tuple(layer.region for layer in layers if layer.region is not None)
    found = []
    for under, share in _shares(footprint, regions):
        there = sorted([*everywhere, *(placed[nth] for nth in under)])
        found.append(Under(tuple(layers[nth] for nth in there), share))
    return tuple(found)


@lru_cache(maxsize=4096)
def _shares(footprint: Area, regions: tuple[Area, ...]) -> tuple[tuple[tuple[int, ...], float], ...]:
    """Which regions lie under each part of an area, with its share, largest first."""
    total = float(footprint.area)
    if total <= 0.0:
        return ()
    parts: list[tuple[Area, tuple[int, ...]]] = [(footprint, ())]
    for nth, region in enumerate(regions):
        parts = [part for area, below in parts for part in _split(area, below, nth, region, total)]
    shares: dict[tuple[int, ...], float] = {}
    for area, below in parts:
        shares[below] = shares.get(below, 0.0) + float(area.area)
    whole = sum(shares.values())
    ordered = sorted(shares.items(), key=lambda item: -item[1])
    return tuple((below, share / whole) for below, share in ordered)


def worst(unders: Sequence[Under], least: float = 0.02) -> dict[str, float | str | bool]:
    """Traits of the worst among what lies under a pass, as rules ask for them.

    Parts below the share `least` are left out. Every trait is the more demanding one: the
    higher pile, pull, stretch and underlay, the closer spacing.
    """
    counted = [under for under in unders if under.share >= least and under.surface is not None]
    surfaces = [under.surface for under in counted if under.surface is not None]
    if not surfaces:
        return {}
    return {
        "under_pile": max(under.pile for under in counted),
        "under_pull": max(layer.pull for layer in surfaces),
        "under_stretch": max((layer.stretch for layer in surfaces), key=RANKS["stretch"].index),
        "under_satin_spacing": min(layer.satin_spacing for layer in surfaces),
        "under_fill_spacing": min(layer.fill_spacing for layer in surfaces),
        "under_underlay": max((layer.underlay for layer in surfaces), key=RANKS["underlay"].index),
        "under_marks": max((layer.marks for layer in surfaces), key=RANKS["marks"].index),
        "under_foam": max(under.foam for under in counted),
        "under_topped": any(under.topped for under in counted),
        "under_kinds": float(len({layer.key for layer in surfaces})),
        "under_words": _words(counted),
    }


def _split(
    area: Area, below: tuple[int, ...], nth: int, region: Area, total: float
) -> list[tuple[Area, tuple[int, ...]]]:
    """A part divided into what lies under a region and what does not."""
    if not shapely.intersects(region, area):
        return [(area, below)]
    found: list[tuple[Area, tuple[int, ...]]] = []
    inside = shapely.intersection(area, region)
    if inside.area > GRAIN * total:
        found.append((inside, (*below, nth)))
    outside = shapely.difference(area, region)
    if outside.area > GRAIN * total:
        found.append((outside, below))
    return found or [(area, below)]


def _words(unders: Sequence[Under]) -> str:
    """Names of the surfaces with their shares: "60 % polar fleece + 40 % otter brown cotton"."""
    shares: dict[str, float] = {}
    for under in unders:
        surface = under.surface
        if surface is not None:
            name = surface.name + (" over foam" if under.foam and surface.kind != "foam" else "")
            shares[name] = shares.get(name, 0.0) + under.share
    if len(shares) == 1:
        return next(iter(shares))
    total = sum(shares.values())
    ordered = sorted(shares.items(), key=lambda item: -item[1])
    return " + ".join(f"{100 * share / total:.0f} % {name}" for name, share in ordered)
