"""A DXF judged by the work it means before geometry is made: numbers in bounds, references that come to an end."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import Any

from velamen.core.errors import BadInput
from velamen.core.numbers import FARTHEST

FARTHEST_AWAY = 1e5  # mm; a curve through places farther off is no artwork, and flattening it never ends
STEEPEST_BULGE = 1e4  # of an arc in a polyline: it is a full circle by far
FLATTEST = 1e-4  # share of an ellipse's shorter axis
TURNS = 100.0  # of an angle in rad or a curve's parameter


def check_drawing(drawing: Any, factor: float, most: int) -> None:
    """Raises BadInput where a drawing has numbers out of bounds, or draws more than `most` elements.

    Those of inserted blocks are counted as often as they are inserted. factor: mm a drawing unit.
    """
    for entity in [*drawing.modelspace(), *(one for block in drawing.blocks for one in block)]:
        _check_entity(entity, factor)
    if _drawn(drawing.modelspace(), drawing, {}, most) > most:
        raise BadInput(f"The DXF draws more than {most:,} elements: simplify it first.")


def _check_entity(entity: Any, factor: float) -> None:
    kind = entity.dxftype()
    values = entity.dxfattribs()
    lengths = [value for key, value in values.items() if key in LENGTHS or _is_place(value)]
    sound = (
        all(abs(one) * factor <= FARTHEST_AWAY for one in _numbers([*lengths, *_places(entity, kind)]))
        and all(abs(one) <= FARTHEST for one in _numbers(values.values()))
        and all(abs(one) <= STEEPEST_BULGE for one in _bulges(entity, kind))
        and all(FLATTEST <= abs(one) <= 1.0 + 1e-9 for one in _ratios(entity, kind))
        and all(abs(values.get(key, 0.0)) <= TURNS for key in ("start_param", "end_param"))
    )
    if not sound:
        raise BadInput(
            f"The DXF has a number out of bounds in its {kind.lower()}s: keep all within {FARTHEST_AWAY / 1000:g} m."
        )


LENGTHS = {"radius", "width", "height"}


def _is_place(value: Any) -> bool:
    return hasattr(value, "xyz") or hasattr(value, "x")


def _numbers(values: Iterable[Any]) -> Iterator[float]:
    """All numbers in values and places; what is not finite counts as beyond every bound."""
    for value in values:
        if isinstance(value, (int, float)):
            yield float(value) if math.isfinite(value) else math.inf
        elif _is_place(value) or isinstance(value, (tuple, list)):
            yield from (float(one) if math.isfinite(one) else math.inf for one in value)


def _edges(entity: Any) -> list[Any]:
    return [edge for one in entity.paths for edge in getattr(one, "edges", ())]


def _places(entity: Any, kind: str) -> Iterator[Any]:
    """Places that are not among an entity's plain values."""
    if kind == "LWPOLYLINE":
        yield from entity.get_points("xy")
    if kind == "SPLINE":
        yield from map(tuple, [*entity.control_points, *entity.fit_points])
    if kind == "POLYLINE":
        yield from (one.dxf.location for one in entity.vertices)
    if kind == "HATCH":
        yield from (place[:2] for one in entity.paths for place in getattr(one, "vertices", ()))
        for edge in _edges(entity):
            yield from (value for key, value in vars(edge).items() if key in LENGTHS or _is_place(value))
            yield from (place for key in ("control_points", "fit_points") for place in getattr(edge, key, ()))


def _bulges(entity: Any, kind: str) -> Iterator[float]:
    if kind == "LWPOLYLINE":
        yield from _numbers(entity.get_points("b"))
    if kind == "POLYLINE":
        yield from _numbers(one.dxf.get("bulge", 0.0) for one in entity.vertices)
    if kind == "HATCH":
        yield from _numbers(place[2] for one in entity.paths for place in getattr(one, "vertices", ()) if place[2:])


def _ratios(entity: Any, kind: str) -> Iterator[float]:
    if kind == "ELLIPSE":
        yield from _numbers([entity.dxf.ratio])
    if kind == "HATCH":
        yield from _numbers(edge.ratio for edge in _edges(entity) if hasattr(edge, "ratio"))


def _drawn(layout: Any, drawing: Any, known: dict[str, int], most: int) -> int:
    """How many elements a layout comes to with what it inserts, more than `most` where that has no end."""
    total = 0
    for entity in layout:
        total += 1
        if entity.dxftype() == "INSERT":
            times = max(entity.dxf.get("row_count", 1), 1) * max(entity.dxf.get("column_count", 1), 1)
            total += times * (1 + _drawn_block(entity.dxf.get("name", ""), drawing, known, most))
        if total > most:
            return most + 1
    return total


def _drawn_block(name: str, drawing: Any, known: dict[str, int], most: int) -> int:
    block = drawing.blocks.get(name)
    if block is None:
        return 0
    if name not in known:
        known[name] = most + 1  # a block that inserts itself has no end
        known[name] = _drawn(block, drawing, known, most)
    return known[name]
