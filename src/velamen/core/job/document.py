"""The job document: brief, shapes and pieces in stack order."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Any, TypeVar

import msgspec
from msgspec import Struct

from velamen.core.errors import BadInput, within
from velamen.core.job.needles import Needles
from velamen.core.job.shape import Backdrop, Maker, Shape
from velamen.core.materials.library import Library, in_colour, library_with, pick, shipped
from velamen.core.setting import Plain

R = TypeVar("R", bound=Struct)

FORMAT = 2
LAYERS = 4  # of stabilizer, at most
HOOPING = (("hooped", "Hooped"), ("floated", "Floated on the hooped stabilizer"))
BASTED = "basting"
HOLD = (("none", "Nothing more"), (BASTED, "Basting"), ("adhesive", "Adhesive"))
MATCHED, OUTWARD, STACK = "matched", "outward", "stack"
COURSES = ((OUTWARD, "From the centre out, bottom up"), (STACK, "As the stack stands"))
NEAREST = "nearest"
EVERY = "*"
WIDEST = 1000.0  # mm
TOO_THICK = 9.0  # mm of pile, from which a base cannot be hooped flat


class Brief(Struct, frozen=True, forbid_unknown_fields=True):
    """What the job is sewn on. Keys refer to the material library.

    hooping: whether the base is hooped or floated; hold: what else holds it; thread: key of
    the thread that new pieces get, or "nearest" to each cloth; width: mm that artwork brought
    into the empty job is fitted to, 0 for its true size; course: the order pieces are sewn in, one of
    COURSES, or "matched" to the hoop; base_colour: "#rrggbb" of what is sewn on, "" for the library's own.
    """

    base: str = "firm_woven"
    stabilizer: str = "tear_away"
    stabilizer_layers: int = 1
    topping: str = "none"
    hoop: str = "h130x180"
    hooping: str = "hooped"
    hold: str = "none"
    thread: str = NEAREST
    width: float = 0.0
    course: str = MATCHED
    base_colour: str = ""


BESIDE = 2.0  # mm from a place within which what is set for it counts


class Local(Struct, frozen=True, forbid_unknown_fields=True):
    """Values of one's own that hold at one place of a piece alone. at: mm; own: by key of a local setting."""

    at: tuple[float, float]
    own: dict[str, Plain] = {}


def local_at(every: Sequence[Local], place: tuple[float, float]) -> Local | None:
    """What is set for a place: at the nearest one to it that is near enough."""
    near = min(every, key=lambda one: math.dist(one.at, place), default=None)
    return near if near is not None and math.dist(near.at, place) <= BESIDE else None


class ByHand(Struct, frozen=True, forbid_unknown_fields=True):
    """Single points of a matched pass changed by hand. part: its operation; points: how many it had then, and must
    have for this to hold; moved: mm right and down by number of a point; gone: numbers of those left out."""

    part: str
    points: int
    moved: dict[str, tuple[float, float]] = {}
    gone: list[int] = []


class Piece(Struct, frozen=True, forbid_unknown_fields=True):
    """A shape with a construction.

    shape: id of its shape, "" where it goes round other pieces; around: ids of those or of shapes, or EVERY;
    on: id of the piece on whose cloth it is sewn, after the tack-down and before the cover; own: values typed
    by the user, by setting key; threads: keys of other threads than its own, by role of pass;
    start, end: where its sewing should begin and end, mm, None to leave it open; local: own values at places of it;
    by_hand: points of its passes changed one by one.
    """

    id: str
    name: str
    shape: str = ""
    construct: str = "applique"
    cloth: str = "sail_red"
    thread: str = "140"
    own: dict[str, Plain] = {}
    start: tuple[float, float] | None = None
    end: tuple[float, float] | None = None
    around: list[str] = []
    on: str = ""
    threads: dict[str, str] = {}
    local: list[Local] = []
    by_hand: list[ByHand] = []


class Route(Struct, frozen=True, forbid_unknown_fields=True):
    """Pieces of one thread sewn on as one route, by their ids, from a place to another, mm, where given.

    Pieces that lay a cloth or have another thread than the first are passed over.
    """

    pieces: list[str]
    start: tuple[float, float] | None = None
    end: tuple[float, float] | None = None


STEP, COPY = "step", "copy"
ORDERS = ((STEP, "Step by step across all"), (COPY, "Copy by copy"))
MOST_COPIES, LEAST_GAP, MOST_GAP = 200, -5.0, 100.0  # copies, mm
LONGEST_STRIP, MOST_FULLNESS = 1e6, 5.0  # mm, and length of a strip for a length of what it is sewn to
MOST_WANTED = 100_000  # pieces


class Repeat(Struct, frozen=True, forbid_unknown_fields=True):
    """A design sewn several times in one hoop.

    gap: mm between copies, negative where they overlap, as repeats of a strip do; order: one of ORDERS; turned:
    whether each copy is turned by 90 degrees.
    """

    columns: int = 1
    rows: int = 1
    gap: float = 6.0
    order: str = STEP
    turned: bool = False


class Strip(Struct, frozen=True, forbid_unknown_fields=True):
    """A length that is sewn repeat after repeat: mm of it, and how much more is gathered in, 1 for none."""

    length: float
    fullness: float = 1.0


class StitchFile(Struct, frozen=True, forbid_unknown_fields=True):
    """A stitch file that parts were taken from: the key under which it is kept, its name, and as which unit and
    columns it was read, "" for as found."""

    key: str
    name: str
    unit: str = ""
    columns: str = ""


class Job(Struct, frozen=True, forbid_unknown_fields=True):
    """A piece of work. pieces: in stack order, first sewn first.

    materials: rows of the shop's own library that the job uses, by kind and key, as they
    were when they were chosen; all other keys mean the shipped rows. makers: texts and outlines
    that keep shapes alive; backdrop: a picture to trace from; routes: groups sewn on without trims;
    order: keys of steps that are sewn in another order than the stack's; repeat: copies in the hoop;
    wanted: pieces that are to be sewn altogether, 0 where nobody has said; strip: a length to be sewn instead;
    needles: lists of needle points by name, those that shapes are the outlines of; files: stitch files it came from.
    """

    velamen_job: int = FORMAT
    name: str = "Untitled"
    brief: Brief = Brief()
    shapes: list[Shape] = []
    pieces: list[Piece] = []
    materials: dict[str, dict[str, dict[str, Plain]]] = {}
    makers: list[Maker] = []
    backdrop: Backdrop | None = None
    routes: list[Route] = []
    order: list[str] = []
    repeat: Repeat | None = None
    wanted: int = 0
    strip: Strip | None = None
    needles: dict[str, Needles] = {}
    files: list[StitchFile] = []

    @property
    def rows(self) -> Library:
        """The materials this job knows, as they stand in the library."""
        return library_with(self.materials)

    @property
    def library(self) -> Library:
        """The same with its base in the colour that the job is sewn on."""
        return in_colour(self.rows, self.brief.base, self.brief.base_colour)


def brief_for(base_key: str, hoop: str = "h130x180", library: Library | None = None) -> Brief:
    """A brief with the stabilizer, topping and hooping that a base asks for."""
    base = pick((library or shipped()).bases, base_key, "base")
    marks = base.marks != "none"
    floats = marks or base.pile >= TOO_THICK
    return Brief(
        base_key, base.stabilizer, int(base.stabilizer_layers), base.topping, hoop,
        "floated" if floats else "hooped", "adhesive" if marks else BASTED if floats else "none",
    )  # fmt: skip


def change(record: R, **fields: Any) -> R:
    """A copy of a record with some fields changed."""
    return msgspec.structs.replace(record, **fields)


def check_wanted(wanted: int) -> None:
    """Raises BadInput for a number of pieces out of bounds."""
    within("number of pieces", wanted, 0, MOST_WANTED)


def check_strip(strip: Strip | None) -> None:
    """Raises BadInput for a strip out of bounds."""
    if strip is not None:
        within("length of a strip", strip.length, 1.0, LONGEST_STRIP)
        within("fullness of a strip", strip.fullness, 1.0, MOST_FULLNESS)


def check_repeat(repeat: Repeat | None) -> None:
    """Raises BadInput for copies in the hoop that no field holds."""
    if repeat is None:
        return
    within("columns of a repeat", repeat.columns, 1, MOST_COPIES)
    within("rows of a repeat", repeat.rows, 1, MOST_COPIES)
    within("gap between copies", repeat.gap, LEAST_GAP, MOST_GAP)
    if repeat.columns * repeat.rows > MOST_COPIES:
        raise BadInput(
            f"{repeat.columns} x {repeat.rows} copies are too many for one hoop: at most {MOST_COPIES} are sewn."
        )
    pick(dict(ORDERS), repeat.order, "order of copies")


def check_brief(brief: Brief, library: Library) -> Brief:
    """The brief itself when its materials exist; BadInput otherwise."""
    pick(library.bases, brief.base, "base")
    pick(library.stabilizers, brief.stabilizer, "stabilizer")
    pick(library.toppings, brief.topping, "topping")
    pick(library.hoops, brief.hoop, "hoop")
    pick(dict(HOOPING), brief.hooping, "way of hooping")
    pick(dict(HOLD), brief.hold, "way of holding")
    pick({MATCHED: "", **dict(COURSES)}, brief.course, "order of sewing")
    if brief.base_colour and not re.fullmatch("#[0-9a-f]{6}", brief.base_colour):
        raise BadInput(f"The base cannot be {brief.base_colour[:20]!r}: write its colour as #rrggbb.")
    if brief.thread != NEAREST:
        pick(library.threads, brief.thread, "thread")
    if not 0 <= brief.stabilizer_layers <= LAYERS:
        raise BadInput(f"{brief.stabilizer_layers} layers of stabilizer are out of range: use 0 to {LAYERS}.")
    if not 0 <= brief.width <= WIDEST:
        raise BadInput(f"A finished width of {brief.width:g} mm is out of range: use 0 to {WIDEST:g}.")
    return brief
