"""What lies where at a moment of the sew-out: the stack computed from its events.

Materials are laid, cut and taken away in order; a pass sews onto whatever lies there when
its turn comes. `beneath` answers that for any area and any moment, by share of the area.
"""

from __future__ import annotations

from collections.abc import Sequence

import shapely
from msgspec import Struct

from velamen.core.geometry.region import Area as Area
from velamen.core.materials.records import MARKS, STRETCH, UNDERLAYS

GRAIN = 1e-3  # share of an area below which a part is a rounding error
UNDER_TOPPING = 1.0 / 3.0  # of the pile stays up under a topping (handbook, section 3)
RANKS = {  # from the least demanding to the most
    "stretch": [key for key, _ in STRETCH],
    "underlay": [key for key, _ in UNDERLAYS],
    "marks": [key for key, _ in MARKS],
}


class Layer(Struct, frozen=True):
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
    underlay: str = "none"
    marks: str = "none"
    owner: str = ""
    region: Area | None = None

    def placed(self, region: Area | None, owner: str) -> Layer:
        """The same material lying in a region, laid by a piece."""
        return Layer(
            self.kind, self.key, self.name, self.thickness, self.pile, self.stretch, self.pull,
            self.satin_spacing, self.underlay, self.marks, owner, region,
        )  # fmt: skip


class Lay(Struct, frozen=True):
    """A material is laid on top of everything there."""

    layer: Layer


class Trim(Struct, frozen=True):
    """What a piece has laid is cut to a region."""

    owner: str
    region: Area


class Remove(Struct, frozen=True):
    """Every layer of a kind is torn, washed or ironed away; only a piece's own when one is named."""

    kind: str
    owner: str = ""


class Sew(Struct, frozen=True):
    """A pass of a role is sewn; it changes nothing of what lies there."""

    role: str
    owner: str = ""


Event = Lay | Trim | Remove | Sew


class Under(Struct, frozen=True):
    """What one part of an area is sewn on.

    surface: the uppermost material that is no topping, None where nothing lies; topped:
    whether a topping lies on it; foam: mm of foam under the needle, cloth over it or not;
    share: of the whole area.
    """

    surface: Layer | None
    topped: bool
    foam: float
    share: float

    @property
    def pile(self) -> float:
        """Pile in mm that stands up here, a topping on it counted."""
        if self.surface is None:
            return 0.0
        return self.surface.pile * (UNDER_TOPPING if self.topped else 1.0)


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
                layer.placed(event.region, layer.owner) if layer.owner == event.owner else layer for layer in layers
            ]
        elif isinstance(event, Remove):
            layers = [
                layer for layer in layers
                if layer.kind != event.kind or (event.owner and layer.owner != event.owner)
            ]  # fmt: skip
    return tuple(layers)


def beneath(
    events: Sequence[Event], position: int, footprint: Area, below: tuple[Layer, ...] = ()
) -> tuple[Under, ...]:
    """What lies under an area after the first `position` events, largest share first.

    below: layers that lie there before the first event. Shares are of the footprint's area
    and add up to 1; an empty footprint gives nothing.
    """
    return parted((*below, *lying(events, position)), footprint)


def parted(layers: Sequence[Layer], footprint: Area) -> tuple[Under, ...]:
    """An area divided by what it is sewn on, largest share first."""
    surfaces: list[Layer] = []
    regions: list[Area | None] = []
    foams: list[int] = []
    topping = -1
    for nth, layer in enumerate(layers):
        if layer.kind == "topping":
            topping = nth
            continue
        if layer.kind == "foam":
            foams.append(len(surfaces))
        surfaces.append(layer)
        regions.append(layer.region)
    before = sum([layer.kind != "topping" for layer in layers[:topping]]) if topping >= 0 else 0
    found: dict[tuple[int, float], float] = {}
    for top, under, share in _shares(footprint, regions, foams):
        foam = sum([surfaces[one].thickness for one in under if one <= top])
        found[top, foam] = found.get((top, foam), 0.0) + share
    parts = [
        # a topping counts where it was laid after what is sewn on
        Under(surfaces[top] if top >= 0 else None, top < before, foam, share)
        for (top, foam), share in found.items()
    ]
    return tuple(sorted(parts, key=lambda under: -under.share))


Share = tuple[int, tuple[int, ...], float]
_kept: dict[tuple[int, ...], tuple[object, tuple[Share, ...]]] = {}
KEPT = 8192


def _shares(footprint: Area, regions: list[Area | None], foams: list[int]) -> tuple[Share, ...]:
    """Parts of an area: the uppermost region over each, the foams there, and the share.

    Kept by the identity of the areas, which are held along with the answer, so that no
    other area can take their place.
    """
    mark = (id(footprint), *map(id, regions), -1, *foams)
    known = _kept.get(mark)
    if known is None:
        if len(_kept) >= KEPT:
            _kept.clear()
        known = _kept[mark] = (footprint, regions), _work_out_shares(footprint, regions, foams)
    return known[1]


def _work_out_shares(footprint: Area, regions: list[Area | None], foams: list[int]) -> tuple[Share, ...]:
    """Taken from the uppermost region down, so that buried ones cost nothing."""
    rest: Area | None = footprint
    total = float(footprint.area)
    if total <= 0.0:
        return ()
    parts: list[tuple[int, tuple[int, ...], Area]] = []
    for nth in range(len(regions) - 1, -1, -1):
        if rest is None:
            break
        inside, rest = _split(rest, regions[nth], total)
        if inside is not None:
            parts.append((nth, (), inside))
    if rest is not None:
        parts.append((-1, (), rest))
    for foam in foams:
        divided: list[tuple[int, tuple[int, ...], Area]] = []
        for top, under, area in parts:
            inside, outside = _split(area, regions[foam], total)
            divided += [(top, (*under, foam), inside)] if inside is not None else []
            divided += [(top, under, outside)] if outside is not None else []
        parts = divided
    whole = sum(float(area.area) for _, _, area in parts)
    return tuple((top, under, float(area.area) / whole) for top, under, area in parts)


def _split(area: Area, region: Area | None, total: float) -> tuple[Area | None, Area | None]:
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
    counted = [(under.surface, under) for under in unders if under.share >= least and under.surface]
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
        "under_kinds": float(len({layer.key for layer in surfaces})),
        "under_words": _words([under for _, under in counted]),
    }


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
