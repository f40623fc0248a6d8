"""Edits of shapes asked for on the Artwork stage: a name and typed numbers to a change of the document."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from django.http import QueryDict

from velamen.core import reshaping, shaping
from velamen.core.artwork import pen
from velamen.core.artwork.basic import BASICS
from velamen.core.artwork.lettering import TYPEFACES
from velamen.core.errors import BadInput
from velamen.core.geometry import combine
from velamen.core.job import Job
from velamen.core.lengths import read_length
from velamen.core.setting import Setting

Edit = Callable[[Job, list[str], "Asked"], Job]
FAR = 1000.0

NUMBERS = {
    one.key: one
    for one in (
        Setting("distance", "Distance", "Outline", "Outwards, inwards where negative.", low=-60, high=60),
        Setting("close", "Close gaps", "Outline", "Gaps narrower than this are closed.", low=0, high=40),
        Setting("calm", "Calm", "Outline", "Smaller bumps and notches are smoothed.", low=0, high=30),
        Setting("degrees", "Turn by", "Arrange", "Clockwise.", unit="°", low=-360, high=360),
        Setting("columns", "Across", "Repeat", "Copies side by side.", unit="", low=1, high=40, step=1),
        Setting("rows", "Down", "Repeat", "Copies below each other.", unit="", low=1, high=40, step=1),
        Setting("gap", "Gap", "Repeat", "Between neighbours.", low=-50, high=200),
        Setting("count", "Copies", "Repeat", "Round the circle, with the first.", unit="", low=2, high=72, step=1),
        Setting("radius", "Radius", "Repeat", "From the shape to the middle of the circle.", low=1, high=300),
        Setting("letter_height", "Height", "Lettering", "Of the capitals.", low=3, high=300),
        Setting("letter_spacing", "Spacing", "Lettering", "More between letters, or less.", low=-20, high=60),
        Setting("fit_width", "Fit to width", "Lettering", "Of the longest line; 0 as it comes.", low=0, high=600),
        Setting("letter_arch", "Arch", "Lettering", "Middle above the ends, below where negative.",
                low=-150, high=150),
        Setting("reach", "Reach", "Points", "How far the outline follows on either side.", low=0, high=100),
        Setting("amount", "Smooth over", "Mend", "Either way along the outline.", low=0.5, high=30),
        Setting("below", "Holes under", "Mend", "Smaller holes are filled.", unit="mm²", low=0.1, high=100000),
        Setting("tolerance", "Tolerance", "Mend", "How far the outline may move.", low=0.01, high=5, step=0.01),
    )
}  # fmt: skip


class Asked:
    """What a form has sent, read as numbers with sentences for what cannot be."""

    def __init__(self, data: QueryDict, unit: str) -> None:
        self.data, self.unit = data, unit

    def text(self, key: str) -> str:
        return str(self.data.get(key, ""))

    def number(self, key: str) -> float:
        """A number declared in NUMBERS."""
        return float(NUMBERS[key].read(self.text(key)))

    def length(self, key: str, label: str) -> float | None:
        """A length in the person's unit, None where nothing is typed."""
        text = self.text(key).strip()
        if not text:
            return None
        try:
            length = read_length(text, self.unit)
        except ValueError:
            raise BadInput(f'{label} cannot be {text[:30]!r}: write it like 63.5, 2.5 in or 2 1/2".') from None
        if abs(length) > FAR:
            raise BadInput(f"{label} {length:g} mm is out of bounds: use up to {FAR:g} mm.")
        return length


def _size(asked: Asked, key: str, label: str) -> float | None:
    length = asked.length(key, label)
    if length is not None and length < 1.0:
        raise BadInput(f"{label} {length:g} mm is too small: use 1 mm or more.")
    return length


def _move(job: Job, ids: list[str], asked: Asked) -> Job:
    shift = [asked.length("dx", "The way to the right") or 0.0, asked.length("dy", "The way down") or 0.0]
    return arranging.moved(job, ids, np.eye(2), np.array(shift))


def _offset(job: Job, ids: list[str], asked: Asked) -> Job:
    distance = asked.number("distance")
    if abs(distance) < 0.1:
        raise BadInput("An outline needs a distance of at least 0.1 mm, negative for inwards.")
    sharp = asked.text("corners") == "sharp"
    return shaping.offset(job, ids, distance, sharp, asked.number("close"), asked.number("calm"))


def _fill(job: Job, ids: list[str], asked: Asked) -> Job:
    below = np.inf if asked.text("all") else asked.number("below")
    return shaping.mended(job, ids, lambda region: [combine.fill_holes(region, below)])


def _simplify(job: Job, ids: list[str], asked: Asked) -> Job:
    tolerance = asked.number("tolerance")
    return shaping.mended(job, ids, lambda region: [combine.simplified(region, tolerance)])


def _points(asked: Asked) -> list[tuple[int, int]]:
    """Points as the board names them: ring and place, "0.17"."""
    found = []
    for text in asked.data.getlist("points")[:5000]:
        ring, dot, nth = text.partition(".")
        if not (dot and ring.isdecimal() and nth.isdecimal() and len(text) < 14):
            raise BadInput("The points cannot be read: reload the page.")
        found.append((int(ring), int(nth)))
    if not found:
        raise BadInput("Choose a point first.")
    return found


def _text(job: Job, ids: list[str], asked: Asked) -> Job:
    text, typeface, joined = asked.text("text")[:400], asked.text("typeface"), asked.text("as") == "word"
    numbers = [asked.number(key) for key in ("letter_height", "letter_spacing", "fit_width", "letter_arch")]
    return shaping.draw_text(job, text, typeface, *numbers, joined)


def _pen(job: Job, ids: list[str], asked: Asked) -> Job:
    """An outline out of the pen's points: "x y c" a point, c for a curve; a stroke has none."""
    try:
        rows = [text.split() for text in asked.text("outline").split(",") if text.strip()]
        points = np.array([(float(x), float(y)) for x, y, *_ in rows]).reshape(-1, 2)
    except ValueError:
        raise BadInput("The outline cannot be read: draw it again.") from None
    if len(points) and float(np.abs(points).max()) > FAR:
        raise BadInput("The outline lies far off the field: draw it on the cloth.")
    if asked.text("freehand"):
        region = pen.freehand(points, asked.number("calm"))
    else:
        region = pen.outline_through(points, [row[2:] == ["c"] for row in rows])
    return shaping.draw_outline(job, region, _one(ids) if asked.text("cut") else "")


def _one(ids: list[str]) -> str:
    if len(ids) != 1:
        raise BadInput("Points are edited on one shape at a time.")
    return ids[0]


def _move_points(job: Job, ids: list[str], asked: Asked) -> Job:
    shift = asked.length("dx", "The way to the right") or 0.0, asked.length("dy", "The way down") or 0.0
    return reshaping.points_moved(job, _one(ids), _points(asked), shift, asked.number("reach"))


def _add_point(job: Job, ids: list[str], asked: Asked) -> Job:
    place = asked.length("x", "The place") or 0.0, asked.length("y", "The place") or 0.0
    return reshaping.point_added(job, _one(ids), place)


def _hole(job: Job, ids: list[str], asked: Asked) -> Job:
    ring, keep = _points(asked)[0][0], bool(asked.text("keep"))
    job, kept = reshaping.hole_removed(job, _one(ids), ring, keep)
    return shaping.with_shape(job, _one(ids), kept) if kept is not None else job


def _smooth(job: Job, ids: list[str], asked: Asked) -> Job:
    amount = asked.number("amount")
    return shaping.mended(job, ids, lambda region: [reshaping.smoothed(region, amount)])


EDITS: Mapping[str, tuple[str, Edit]] = {
    "draw": ("Shape drawn", lambda job, ids, asked: shaping.draw_basic(job, asked.text("basic"), {
        one.key: asked.text(one.key) for one in BASICS[asked.text("basic")].settings if asked.text(one.key)
    } if asked.text("basic") in BASICS else {})),
    "text": ("Text drawn", _text),
    "pen": ("Outline drawn", _pen),
    "duplicate": ("Duplicated", lambda job, ids, asked: arranging.duplicated(job, ids)),
    "combine": ("Shapes combined", lambda job, ids, asked: shaping.combined(job, ids, asked.text("how"))),
    "offset": ("Outline drawn", _offset),
    "move": ("Moved", _move),
    "turn": ("Turned", lambda job, ids, asked: arranging.turned(job, ids, asked.number("degrees"))),
    "mirror": ("Mirrored", lambda job, ids, asked: arranging.mirrored(job, ids, asked.text("across"))),
    "size": ("Sized", lambda job, ids, asked: arranging.sized(
        job, ids, _size(asked, "width", "Width"), _size(asked, "height", "Height"))),
    "fit": ("Fitted to the field", lambda job, ids, asked: arranging.fitted(job, ids)),
    "align": ("Lined up", lambda job, ids, asked: arranging.aligned(job, ids, asked.text("edge"))),
    "distribute": ("Distributed", lambda job, ids, asked: arranging.distributed(job, ids, asked.text("across"))),
    "repeat": ("Repeated", lambda job, ids, asked: arranging.repeated(
        job, ids, int(asked.number("columns")), int(asked.number("rows")), asked.number("gap"))),
    "round": ("Repeated round", lambda job, ids, asked: arranging.repeated_round(
        job, ids, int(asked.number("count")), asked.number("radius"))),
    "fill": ("Holes filled", _fill),
    "simplify": ("Simplified", _simplify),
    "smooth": ("Smoothed", _smooth),
    "move-points": ("Points moved", _move_points),
    "add-point": ("Point added", _add_point),
    "remove-points": ("Points removed", lambda job, ids, asked: reshaping.points_removed(
        job, _one(ids), _points(asked))),
    "straighten": ("Straightened", lambda job, ids, asked: reshaping.straightened(job, _one(ids), _points(asked))),
    "hole": ("Hole taken out", _hole),
    "rename": ("Renamed", lambda job, ids, asked: arranging.renamed(job, ids[0] if ids else "", asked.text("name"))),
    "remove": ("Removed", lambda job, ids, asked: arranging.removed(job, ids)),
}  # fmt: skip


def edited(job: Job, data: QueryDict, unit: str) -> tuple[Job, str, list[str]]:
    """The document after the edit a form asks for, its label, and the ids of what is chosen then."""
    label, edit = EDITS.get(data.get("do", ""), ("", None))
    if edit is None:
        raise BadInput("That is no edit of shapes: reload the page.")
    ids = list(dict.fromkeys(data.getlist("ids")))[:400]
    after = edit(job, ids, Asked(data, unit))
    before = {shape.id for shape in job.shapes}
    new = [shape.id for shape in after.shapes if shape.id not in before]
    known = {shape.id for shape in after.shapes}
    return after, label, new or [one for one in ids if one in known]


def shapes_context(document: Job, chosen: list[str]) -> dict[str, Any]:
    """What the Artwork stage shows: shapes in stack order, top first, and the field."""
    shapes = {shape.id: shape for shape in document.shapes}
    library = document.library
    rows = []
    for piece in document.pieces:
        shape = shapes[piece.shape]
        ring = np.asarray(shape.rings[0])
        rows.append({
            "piece": piece,
            "shape": shape,
            "colour": library.cloths[piece.cloth].colour,
            "path": "".join("M" + "L".join(f"{x:.3f},{y:.3f}" for x, y in one) + "Z" for one in shape.rings),
            "box": [round(float(value), 3) for value in (*ring.min(axis=0), *ring.max(axis=0))],
            "points": sum(len(one) for one in shape.rings),
            "holes": len(shape.rings) - 1,
            "chosen": shape.id in chosen,
        })  # fmt: skip
    return {
        "rows": rows,
        "rows_top": rows[::-1],
        "basics": [_basic(one) for one in BASICS.values()],
        "numbers": NUMBERS,
        "typefaces": TYPEFACES,
    }


def _basic(basic: Any) -> dict[str, Any]:
    region = basic.draw({})
    left, top, right, bottom = region.bounds
    edge = 0.06 * max(right - left, bottom - top)
    return {
        "basic": basic,
        "fields": [{"setting": one, "value": one.show(basic.start[one.key])} for one in basic.settings],
        "box": f"{left - edge:.1f} {top - edge:.1f} {right - left + 2 * edge:.1f} {bottom - top + 2 * edge:.1f}",
        "path": "".join("M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in ring.coords) + "Z"
                        for ring in (region.exterior, *region.interiors)),
    }  # fmt: skip
