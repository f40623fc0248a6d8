"""Shapes of a job, what keeps them alive (typed text, outlines round others), and the picture behind them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import msgspec
import numpy as np
from msgspec import Struct

from velamen.core.arrays import Array, Place
from velamen.core.errors import BadInput

Node = tuple[float, float, float, float, float, float]
"""A curve node: its place, the handle before it and the one after it, all in mm."""

Frame = tuple[float, float, float, float, float, float]
AS_IT_IS: Frame = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
RAIL = "rail"
LINES = ("direction", "guide", RAIL)
MOST_LINES = 60
FLATTEST = 1e-6  # of the area of needle points that is left of it
FARTHEST, WIDEST = 2000.0, 1500.0  # mm from the middle of the field, and across


class Line(Struct, frozen=True, forbid_unknown_fields=True):
    """A line on a shape: stitches lie along direction lines, rows follow a guide line, and columns lie between two
    rails."""

    kind: str
    points: list[Place]


class Shape(Struct, frozen=True, forbid_unknown_fields=True):
    """Geometry: rings in mm, the outer one first, y down, origin in the sewing field's centre.

    nodes: curves that the rings come from, a list for each ring, or none at all; open: the one
    ring is a line with two ends; group: key shared by shapes that are chosen together; maker: id
    of the text or outline that makes this shape; die: key of the cutting die that fixes its size;
    needles: name of the needle points whose outline it is, "" for a shape of its own, and placed: where those were
    moved, turned and sized to, as in Text.
    """

    id: str
    name: str
    rings: list[list[Place]]
    nodes: list[list[Node]] = []
    open: bool = False
    group: str = ""
    maker: str = ""
    locked: bool = False
    hidden: bool = False
    die: str = ""
    lines: list[Line] = []
    needles: str = ""
    placed: Frame = AS_IT_IS


class Text(Struct, frozen=True, forbid_unknown_fields=True, tag="text"):
    """Typed text.

    joined: where letters touch they are one shape; style: "lines" or "monogram"; circle: mm across
    the one it stands on, or 0; kerns: mm more before a letter, by its place in the text; matrix:
    where it was moved, turned and sized to, (a, b, c, d, e, f) of x' = ax + cy + e, y' = bx + dy + f;
    within: mm wide that it is at most, set smaller in proportion, or 0.
    """

    id: str
    text: str
    typeface: str
    height: float
    spacing: float = 0.0
    width: float = 0.0
    arch: float = 0.0
    circle: float = 0.0
    joined: bool = False
    style: str = "lines"
    kerns: dict[str, float] = {}
    matrix: Frame = AS_IT_IS
    within: float = 0.0


class Around(Struct, frozen=True, forbid_unknown_fields=True, tag="around"):
    """An outline round other shapes, by their ids, that follows them.

    form: "even", or one of artwork.framed.FORMS fitted round them; distance: mm off them, inwards where negative;
    sharp, close, calm: corners, gaps and bumps of an even outline; wide, high: mm that a fitted one has at least.
    """

    id: str
    sources: list[str]
    distance: float
    sharp: bool = False
    close: float = 0.0
    calm: float = 0.0
    form: str = "even"
    wide: float = 0.0
    high: float = 0.0


Maker = Text | Around


class Backdrop(Struct, frozen=True, forbid_unknown_fields=True):
    """A picture behind the shapes, to trace from: its key, middle and width in mm, turned by degrees."""

    picture: str
    x: float = 0.0
    y: float = 0.0
    width: float = 100.0
    turn: float = 0.0
    opacity: float = 0.5
    shown: bool = True


def reshaped(shape: Shape, rings: Sequence[Array], nodes: Sequence[Array] = ()) -> Shape:
    """A shape with other rings, of no needle points; its curves are those given, or none."""
    return msgspec.structs.replace(shape, rings=plain(rings), nodes=plain(nodes), needles="", placed=AS_IT_IS)


def transformed(shape: Shape, matrix: Array, shift: Array) -> Shape:
    """A shape under `point @ matrix + shift`, its curves and lines with it."""

    def over(points: Any) -> Array:
        points = np.asarray(points, dtype=np.float64)
        return np.asarray((points.reshape(-1, 2) @ matrix + shift).reshape(points.shape))

    nodes = [over(ring) for ring in shape.nodes]
    lines = [Line(line.kind, plain([over(line.points)])[0]) for line in shape.lines]
    placed = moved_frame(shape.placed, matrix, shift) if shape.needles else shape.placed
    changed = reshaped(shape, [over(ring) for ring in shape.rings], nodes)
    return msgspec.structs.replace(changed, lines=lines, needles=shape.needles, placed=placed)


def moved_frame(frame: Frame, matrix: Array, shift: Array) -> Frame:
    """A frame under `point @ matrix + shift`."""
    old = np.array(frame).reshape(3, 2)
    a, b, c, d, e, f = np.round(np.concatenate([(old[:2] @ matrix).ravel(), old[2] @ matrix + shift]), 8).tolist()
    return a, b, c, d, e, f


def in_frame(points: Array, frame: Frame) -> Array:
    """Points (n, 2) where a frame puts them."""
    if frame == AS_IT_IS:
        return points
    linear = np.array(frame).reshape(3, 2)
    return np.asarray(points @ linear[:2] + linear[2])


def out_of_frame(points: Array, frame: Frame) -> Array:
    """Points (n, 2) as they were before a frame put them there."""
    linear = np.array(frame).reshape(3, 2)
    return np.asarray((points - linear[2]) @ np.linalg.inv(linear[:2]))


def plain(rings: Sequence[Array]) -> list[Any]:
    """Rings or nodes as plain lists of tuples, to a ten-thousandth of a millimetre."""
    return [[tuple(row) for row in np.round(np.asarray(ring, dtype=np.float64), 4).tolist()] for ring in rings]


def check_shape(shape: Shape) -> None:
    """Raises BadInput where a shape's figures cannot be."""
    least = 2 if shape.open else 3
    if not shape.rings or any(len(ring) < least for ring in shape.rings):
        raise BadInput(f"Shape {shape.name!r} has a ring of fewer than {('three', 'two')[shape.open]} points.")
    if shape.open and len(shape.rings) != 1:
        raise BadInput(f"Shape {shape.name!r} is an open line with {len(shape.rings)} rings: a line has one.")
    if shape.nodes and len(shape.nodes) != len(shape.rings):
        raise BadInput(f"Shape {shape.name!r} has curves for {len(shape.nodes)} of {len(shape.rings)} rings.")
    if shape.needles and not abs(np.linalg.det(np.array(shape.placed[:4]).reshape(2, 2))) > FLATTEST:
        raise BadInput(f"Shape {shape.name!r} has needle points pressed flat: bring them in again.")
    if len(shape.lines) > MOST_LINES:
        raise BadInput(f"Shape {shape.name!r} has {len(shape.lines)} lines: at most {MOST_LINES} guide its stitches.")
    for line in shape.lines:
        if line.kind not in LINES or len(line.points) < 2:
            raise BadInput(f"Shape {shape.name!r} has a line that is no direction or guide line with two points.")
    check_bounds(shape)


def check_bounds(shape: Shape) -> None:
    """Raises BadInput where a shape lies or reaches too far."""
    every: list[Any] = [*shape.rings, *shape.nodes, *(line.points for line in shape.lines)]
    places = np.concatenate([np.asarray(row, dtype=np.float64).ravel() for row in every])
    if not np.isfinite(places).all():
        raise BadInput(f"Shape {shape.name!r} has a point that is not a finite number: remove the shape.")
    far = float(np.abs(places).max(initial=0.0))
    if far > FARTHEST:
        raise BadInput(f"Shape {shape.name!r} lies {far / 1000:,.3g} m off the field: bring it back, or remove it.")
    outer = np.asarray(shape.rings[0], dtype=np.float64)
    size = float(np.ptp(outer, axis=0).max(initial=0.0))
    if size > WIDEST:
        raise BadInput(f"Shape {shape.name!r} is {size:,.0f} mm across: use {WIDEST:,.0f} mm at most.")


def check_place(place: tuple[float, float] | None, what: str) -> None:
    """Raises BadInput where a place lies too far off; what: what has it, as "Piece 'Otter'"."""
    if place is None or all(abs(one) <= FARTHEST for one in place):
        return
    raise BadInput(f"{what} begins or ends more than {FARTHEST / 1000:g} m off the field: choose a place on it.")


def check_makers(makers: Sequence[Maker]) -> None:
    """Raises BadInput where a text or outline is doubled or not in figures."""
    ids = [maker.id for maker in makers]
    if len(set(ids)) < len(ids):
        raise BadInput("The job has two texts or outlines with one id: give each its own.")
    for maker in makers:
        values = [value for value in msgspec.structs.astuple(maker) if isinstance(value, float)]
        extra = [*maker.matrix, *maker.kerns.values()] if isinstance(maker, Text) else []
        if not all(math.isfinite(value) and abs(value) < 1e6 for value in [*values, *extra]):
            raise BadInput(f"The text or outline {maker.id!r} has a figure out of bounds.")
