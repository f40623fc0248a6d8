"""Edits of shapes asked for on the Artwork stage: a name and typed numbers to a change of the document."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping

import numpy as np

from velamen.core.artwork import pen
from velamen.core.artwork.basic import BASICS
from velamen.core.building.job_materials import take_rows
from velamen.core.edits.shapes import arranging, copying, curve_nodes, drawing, shape_points
from velamen.core.edits.shapes.bring_in import sewn_line
from velamen.core.edits.shapes.dies import draw_die
from velamen.core.edits.shapes.live_shapes import EVEN, remade
from velamen.core.edits.stack.makeup import with_cloth
from velamen.core.errors import BadInput
from velamen.core.geometry import combine
from velamen.core.job.document import Job, change
from velamen.core.job.reading import read_job
from velamen.core.job.shape import LINES, Around, Text
from velamen.core.materials.library import Library
from velamen.web.jobs.pictures import ring_path
from velamen.web.stages.typed import Typed, ids_of

Edit = Callable[[Job, list[str], Typed], Job]


def _one(ids: list[str]) -> str:
    if len(ids) != 1:
        raise BadInput("Points are edited on one shape at a time.")
    return ids[0]


def _draw(job: Job, ids: list[str], asked: Typed) -> Job:
    settings = BASICS[asked.text("basic")].settings if asked.text("basic") in BASICS else ()
    typed = {one.key: asked.text(one.key) for one in settings if asked.text(one.key)}
    return drawing.draw_basic(job, asked.text("basic"), typed)


def _move(job: Job, ids: list[str], asked: Typed) -> Job:
    return arranging.moved(job, ids, np.eye(2), np.array(asked.shift()))


def _offset(job: Job, ids: list[str], asked: Typed) -> Job:
    return drawing.offset(job, ids, asked.distances(), asked.text("corners") == "sharp", asked.number("close"),
                          asked.number("calm"), bool(asked.text("live")))  # fmt: skip


def _around(job: Job, ids: list[str], asked: Typed) -> Job:
    known = next((one for one in job.makers if one.id == asked.text("maker") and isinstance(one, Around)), None)
    if known is None:
        raise BadInput("That outline follows nothing any more: draw it anew.")
    (distance, *more) = asked.distances()
    if more:
        raise BadInput("An outline that follows has one distance.")
    sharp = asked.text("corners") == "sharp"
    numbers = {key: asked.any_number(key) for key in ("close", "calm", "wide", "high")}
    return remade(job, change(known, distance=distance, sharp=sharp, form=asked.text("form") or EVEN, **numbers))


def _fill(job: Job, ids: list[str], asked: Typed) -> Job:
    below = np.inf if asked.text("all") else asked.number("below")
    return drawing.mended(job, ids, lambda region: [combine.fill_holes(region, below)])


def _simplify(job: Job, ids: list[str], asked: Typed) -> Job:
    tolerance = asked.number("tolerance")
    return drawing.mended(job, ids, lambda region: [combine.simplified(region, tolerance)])


def _smooth(job: Job, ids: list[str], asked: Typed) -> Job:
    amount = asked.number("amount")
    return drawing.mended(job, ids, lambda region: [shape_points.smoothed(region, amount)])


def _text_of(asked: Typed) -> Text:
    keys = ("letter_height", "letter_spacing", "fit_width", "letter_arch", "letter_circle")
    height, spacing, width, arch, circle = (asked.number(key) for key in keys)
    style = "monogram" if asked.text("as") == "monogram" else "lines"
    return Text(asked.text("maker"), asked.text("text")[:400].replace("\r", ""), asked.text("typeface"), height,
                spacing, width, arch, circle, asked.text("as") == "word", style,
                within=asked.any_number("within"))  # fmt: skip


def _retype(job: Job, ids: list[str], asked: Typed) -> Job:
    known = next((one for one in job.makers if one.id == asked.text("maker") and isinstance(one, Text)), None)
    fresh = _text_of(asked)
    kerns = known.kerns if known and len(known.text) == len(fresh.text) else {}
    return drawing.retyped(job, change(fresh, kerns=kerns))


def _kern(job: Job, ids: list[str], asked: Typed) -> Job:
    return drawing.kerned(job, _one(ids), asked.length("dx", "The way to the right") or 0.0)


def _pen(job: Job, ids: list[str], asked: Typed) -> Job:
    points, curved = asked.drawn()
    freehand, kind = bool(asked.text("freehand")), asked.text("line")
    if kind:
        line = pen.freehand_line(points, asked.number("calm")) if freehand else pen.open_line(points, curved)
        on = _one(ids) if kind in LINES else ""
        return drawing.draw_line(job, line, kind, on)
    region, nodes = pen.freehand(points, asked.number("calm")) if freehand else pen.outline_through(points, curved)
    return drawing.draw_outline(job, region, nodes, _one(ids) if asked.text("cut") else "")


def _hole(job: Job, ids: list[str], asked: Typed) -> Job:
    ring, keep = asked.points()[0][0], bool(asked.text("keep"))
    job, kept = shape_points.hole_removed(job, _one(ids), ring, keep)
    return drawing.with_shape(job, _one(ids), kept) if kept is not None else job


def _split(job: Job, ids: list[str], asked: Typed) -> Job:
    points = asked.points()
    if len(points) != 2:
        raise BadInput("Choose two points to split between.")
    return shape_points.split_at(job, _one(ids), points[0], points[1])


def _handle(job: Job, ids: list[str], asked: Typed) -> Job:
    return curve_nodes.handle_moved(job, _one(ids), asked.points()[0], asked.text("side"), asked.shift())


def _backdrop(job: Job, ids: list[str], asked: Typed) -> Job:
    picture = job.backdrop
    if picture is None:
        raise BadInput("There is no picture behind the shapes: bring one in.")
    if asked.text("away"):
        return change(job, backdrop=None)
    wanted = {
        "opacity": asked.number("opacity") / 100 if asked.text("opacity") else picture.opacity,
        "width": asked.size("width", "Width") or picture.width,
        "turn": asked.number("degrees") if asked.text("degrees") else picture.turn,
        "shown": asked.text("shown") == "yes" if asked.text("shown") else picture.shown,
    }
    for key, label in (("x", "The place"), ("y", "The place")):
        value = asked.length(key, label)
        wanted[key] = getattr(picture, key) if value is None else value
    return change(job, backdrop=change(picture, **wanted))


EDITS: Mapping[str, tuple[str, Edit]] = {
    "draw": ("Shape drawn", _draw),
    "text": ("Text set", lambda job, ids, asked: drawing.draw_text(
        job, _text_of(asked), asked.text("sewn"))),
    "retype": ("Text changed", _retype),
    "kern": ("Letter moved", _kern),
    "pen": ("Drawn by hand", _pen),
    "clear-lines": ("Lines taken away", lambda job, ids, asked: drawing.lines_cleared(job, ids)),
    "join-lines": ("Lines joined", lambda job, ids, asked: drawing.joined_lines(job, ids)),
    "sew-line": ("Line sewn", lambda job, ids, asked: sewn_line(job, ids)),
    "widen": ("Line to a shape", lambda job, ids, asked: drawing.widened(job, ids, asked.number("line_width"))),
    "duplicate": ("Duplicated", lambda job, ids, asked: arranging.duplicated(job, ids)),
    "combine": ("Shapes combined", lambda job, ids, asked: drawing.combined(job, ids, asked.text("how"))),
    "apart": ("Kept apart", lambda job, ids, asked: drawing.kept_apart(job, ids, asked.number("overlap"))),
    "break": ("Separated", lambda job, ids, asked: drawing.broken_up(job, ids)),
    "offset": ("Outline drawn", _offset),
    "around": ("Outline changed", _around),
    "free": ("Made plain shapes", lambda job, ids, asked: arranging.freed(job, ids)),
    "move": ("Moved", _move),
    "turn": ("Turned", lambda job, ids, asked: arranging.turned(job, ids, asked.number("degrees"))),
    "mirror": ("Mirrored", lambda job, ids, asked: arranging.mirrored(job, ids, asked.text("across"))),
    "size": ("Sized", lambda job, ids, asked: arranging.sized(
        job, ids, asked.size("width", "Width"), asked.size("height", "Height"))),
    "fit": ("Fitted to the field", lambda job, ids, asked: arranging.fitted(job, ids)),
    "align": ("Lined up", lambda job, ids, asked: arranging.aligned(job, ids, asked.text("edge"))),
    "distribute": ("Distributed", lambda job, ids, asked: arranging.distributed(job, ids, asked.text("across"))),
    "group": ("Grouped", lambda job, ids, asked: arranging.grouped(job, ids, True)),
    "ungroup": ("Group undone", lambda job, ids, asked: arranging.grouped(job, ids, False)),
    "lock": ("Locked", lambda job, ids, asked: arranging.held(job, ids, "locked", True)),
    "unlock": ("Unlocked", lambda job, ids, asked: arranging.held(job, ids, "locked", False)),
    "hide": ("Hidden", lambda job, ids, asked: arranging.held(job, ids, "hidden", True)),
    "show": ("Shown", lambda job, ids, asked: arranging.held(job, ids, "hidden", False)),
    "repeat": ("Repeated", lambda job, ids, asked: arranging.repeated(
        job, ids, int(asked.number("columns")), int(asked.number("rows")), asked.number("gap"))),
    "round": ("Repeated round", lambda job, ids, asked: arranging.repeated_round(
        job, ids, int(asked.number("count")), asked.number("radius"))),
    "fill": ("Holes filled", _fill),
    "simplify": ("Simplified", _simplify),
    "smooth": ("Smoothed", _smooth),
    "curves": ("Turned into curves", lambda job, ids, asked: curve_nodes.curved(job, ids, asked.number("tolerance"))),
    "move-points": ("Points moved", lambda job, ids, asked: shape_points.points_moved(
        job, _one(ids), asked.points(), asked.shift(), asked.number("reach"))),
    "move-handle": ("Curve bent", _handle),
    "add-point": ("Point added", lambda job, ids, asked: shape_points.point_added(job, _one(ids), asked.place())),
    "remove-points": ("Points removed", lambda job, ids, asked: shape_points.points_removed(
        job, _one(ids), asked.points())),
    "straighten": ("Straightened", lambda job, ids, asked: shape_points.straightened(job, _one(ids), asked.points())),
    "make-points": ("Points made", lambda job, ids, asked: curve_nodes.nodes_made(
        job, _one(ids), asked.points(), asked.text("kind"))),
    "split": ("Split", _split),
    "hole": ("Hole taken out", _hole),
    "backdrop": ("Picture changed", _backdrop),
    "rename": ("Renamed", lambda job, ids, asked: arranging.renamed(job, ids[0] if ids else "", asked.text("name"))),
    "remove": ("Removed", lambda job, ids, asked: arranging.removed(job, ids)),
}  # fmt: skip

SAME = ("kern", "retype", "around", "move-points", "move-handle")
"""Edits after which what was chosen stays chosen, whatever shapes follow it."""


def edited(job: Job, data: Mapping[str, str], unit: str, library: Library) -> tuple[Job, str, list[str]]:
    """The document after the edit a form asks for, its label, and the ids of what is chosen then."""
    ids, asked = ids_of(data), Typed(data, unit)
    if data.get("do") == "paste":
        after, new = _pasted(job, data.get("clip", ""), library)
        return after, "Shapes put in", new
    if data.get("do") == "cloth":
        label, after = "Cloth changed", with_cloth(job, ids, asked.text("cloth"), library)
    elif data.get("do") == "die":
        label, after = (
            "Die placed",
            draw_die(take_rows(job, library, {"dies": {asked.text("die")}}), asked.text("die"), asked.place()),
        )
    else:
        label, edit = EDITS.get(data.get("do", ""), ("", None))
        if edit is None:
            raise BadInput("That is no edit of shapes: reload the page.")
        after = edit(job, ids, asked)
    before = {shape.id for shape in job.shapes}
    new = [shape.id for shape in after.shapes if shape.id not in before] if data.get("do") not in SAME else []
    known = {shape.id for shape in after.shapes}
    if data.get("do") == "retype":
        ids = [shape.id for shape in after.shapes if shape.maker == asked.text("maker")]
    return after, label, new or [one for one in ids if one in known]


def burst_of(data: Mapping[str, str]) -> str:
    """A name for what quick edits are one step of: shapes moved again and again; "" for any other edit."""
    if data.get("do") != "move":
        return ""
    return hashlib.blake2b(" ".join(ids_of(data)).encode(), digest_size=16).hexdigest()


def before_after(job: Job, data: Mapping[str, str], unit: str) -> dict[str, object]:
    """Chosen shapes after simplifying or smoothing with the typed numbers: their path and points, before too."""
    if data.get("do") not in ("simplify", "smooth", "curves"):
        raise BadInput("Only mending is shown beforehand.")
    ids = ids_of(data)
    after = EDITS[data["do"]][1](job, ids, Typed(data, unit))
    new = [shape for shape in after.shapes if shape.id in ids]
    old = [shape for shape in job.shapes if shape.id in ids]
    points = [sum(len(ring) for shape in which for ring in (shape.nodes or shape.rings)) for which in (old, new)]
    return {"path": "".join(ring_path(shape.rings) for shape in new), "before": points[0], "after": points[1]}


def _pasted(job: Job, clip: str, library: Library) -> tuple[Job, list[str]]:
    """The document with the shapes that were copied from another job, and their ids."""
    try:
        after = copying.copied_from(job, read_job(clip.encode()), library)
    except BadInput as error:
        raise BadInput(f"What was copied cannot be put in: {error}") from None
    return after, [shape.id for shape in after.shapes[len(job.shapes) :]]
