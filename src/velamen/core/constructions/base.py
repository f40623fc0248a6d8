"""What a construction is.

A construction is one way to make something of a shape: appliqué, a fill, a knockdown. It is declared once, in a
module of its own, and the rest of the program knows it only by what it declares. Three things are needed:

settings     what the person may set: forms, rules, reasons, checks, command line and docs come from them
operations   what is done, in order, out of the piece's work and its early values (timeline.operation)
hides, beyond, proofs, findings, ...   what others need to know of it; each has a start value that fits most

Values come in two looks. Early ones (Setting.early) decide which operations there are, and are matched from brief and
piece alone; then operations are put in order; then all other values are matched on what lies beneath each operation
when it has its turn, and the operations are filled: `Operation.fills` makes needle points of work and values.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import NamedTuple

from shapely import Polygon

from velamen.core.arrays import Array, Place
from velamen.core.geometry.region import Area
from velamen.core.job.document import Local
from velamen.core.job.needles import Needles
from velamen.core.job.shape import AS_IT_IS, Frame, Shape
from velamen.core.materials.records import Motif
from velamen.core.proofs.finding import Finding
from velamen.core.proofs.proved import Proof
from velamen.core.setting import Plain, Setting
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.layers import Layer
from velamen.core.timeline.operation import Operation
from velamen.core.timeline.passes import Pass
from velamen.core.values.value import Values


class Ends(StrEnum):
    """How the last pass of a construction is entered and left."""

    NOWHERE = ""  # the person cannot place its entry and exit
    LOOP = "loop"  # round boundaries: it ends where it begins
    BACK = "back"  # out and back over an area: it ends where it begins
    PATH = "path"  # it ends elsewhere, and is sewn the other way round to end at a place
    OWN = "own"  # a way of its own


class Family(StrEnum):
    """Under which head a construction is listed; in this order."""

    CLOTH = "Cloth"
    GROUNDS = "Grounds"
    LINES = "Lines"
    EDGES = "Edges"
    AREAS = "Areas"


@dataclass(frozen=True)
class Work:
    """A piece to be built: what it is made of and where it lies. All places in mm."""

    piece: str  # id
    name: str
    region: Area  # what is sewn; several parts where it goes round others
    cloth: Layer
    thread: str  # key
    foams: Mapping[str, Layer]  # by key, for constructions that lay some
    cloths: Mapping[str, Layer] = field(default_factory=dict)  # by key, for those that lay more than their own
    motifs: Mapping[str, Motif] = field(default_factory=dict)  # by key, for those that repeat some
    line: Array | None = None  # (n, 2) where the shape is an open line, whose region is the ground it runs over
    guides: tuple[Array, ...] = ()  # lines (n, 2) drawn on the shape, along which rows lie
    directions: tuple[Array, ...] = ()  # lines (n, 2) along which stitches lie
    rails: tuple[Array, ...] = ()  # two lines (n, 2) drawn on the shape, between which columns lie; or none
    start: Place | None = None  # where sewing should begin, None to leave it open
    end: Place | None = None  # where it should end
    sources: tuple[Area, ...] = ()  # what a piece that goes round others goes round, its own shape where it has one
    field: Polygon | None = None  # the sewing field
    later: Area | None = None  # cloth laid later over or beside it
    decorated: Area | None = None  # what is sewn on it, for those that mind it
    die: str = ""  # key of the die that cuts it
    marks: str = "none"  # what the base keeps of needle and hoop
    pile: float = 0.0  # of the base
    local: tuple[Local, ...] = ()  # own values at places
    needles: Needles | None = None  # the points that its shape is the outline of
    placed: Frame = AS_IT_IS  # where those were moved, turned and sized to


def pass_of(work: Work, role: str, label: str, strands: Sequence[Strand]) -> list[Pass]:
    """The pass of a piece in its own thread, none where there is nothing to sew."""
    return [Pass(role, label, work.thread, work.piece, tuple(strands))] if strands else []


@dataclass(frozen=True)
class Sewn:
    """What a piece has come to: what its proofs judge and its fixes go by."""

    work: Work
    values: Values
    passes: tuple[Pass, ...]
    operations: tuple[Operation, ...]


class Thread(StrEnum):
    """The thread that a construction gets when it is put round pieces."""

    BASE = "base"  # nearest to the base's colour, and it follows the base
    BASE_ONCE = "base_once"  # nearest to the base's colour, once
    FIRST = "first"  # that of the first piece
    CLOTH = "cloth"  # nearest to the colour of the cloth that it lays


@dataclass(frozen=True)
class Around:
    """How a construction goes round other pieces."""

    ground: Callable[[Work, Mapping[str, Plain]], Area]  # its own region out of Work.sources and its values
    nominal: Callable[[Area], Area] = lambda sources: sources  # what it is taken to reach before it has values
    first: bool = False  # sewn before what it goes round; it is put under it
    everything: bool = False  # "all pieces" means grounds too, and it lies under those
    thread: Thread = Thread.BASE
    motif: bool = False  # what it goes round becomes its motif and is sewn no longer
    asks: str = ""  # what its button says, where that is not its title
    told: str = ""  # what putting it does, beside its title
    frozen: Mapping[str, Plain] | None = None  # own values once its ground is a plain shape; None: it cannot be
    asked_by: tuple[str, str] | None = None  # field of the brief and value that ask for it
    read: Callable[[Area, Sequence[Area]], Mapping[str, Plain]] = lambda shape, sources: {}  # values that find
    # the like of a shape round the areas that lie on it
    early: bool = False  # its region comes of shapes and early values alone, since it lays something there: a host of
    # what it goes round, and no ground to others


MOST_GUIDES = 12  # of those that go by several

PlainParts = tuple[tuple[str, Mapping[str, Plain]], ...]
"""Constructions with own values that stand for parts of another one on the same shape, in the order they are sewn."""

Operations = Callable[[Work, Mapping[str, Plain]], Sequence[Operation]]
Ways = Iterable[tuple[str, Mapping[str, Plain]]]
"""Ways to end a finding: what the button says, and the values that the piece then has."""


def nothing_told(work: Work, known: Mapping[str, Plain]) -> Mapping[str, Plain]:
    """No further traits."""
    return {}


def its_region(work: Work, role: str, known: Mapping[str, Plain]) -> Area | None:
    """A piece stands on its own region, whatever is sewn of it."""
    return work.region


class Sample(StrEnum):
    """The shape on which a construction's small picture is sewn."""

    BLOB = "blob"
    BODY = "body"  # with corners and a round
    STROKE = "stroke"
    RING = "ring"
    OVAL = "oval"
    LINE = "line"
    NEAR = "near"  # a line, seen stitch by stitch


@dataclass(frozen=True)
class Judgement:
    """How a text in a typeface does when it is sewn so."""

    fits: bool
    told: str  # in a few words


@dataclass(frozen=True)
class Spot:
    """A place of a piece that has values of its own. Lengths in mm."""

    at: Place
    label: str  # what is there, "6.5 mm"
    line: tuple[Place, ...]  # where it is drawn
    values: Mapping[str, Plain]  # by key of a local setting
    own: bool = False  # whether somebody has set them


class Led(NamedTuple):
    """A line (n, 2) mm as it would lie, with the key of its thread, "" for one that is only told apart."""

    line: Array
    thread: str = ""


@dataclass(frozen=True)
class Stop:
    """Something at a share of the way across a piece. key: of the setting that holds the share, in %; thread: key of
    what is sewn there; dense: how close, 0 to 1."""

    key: str
    label: str
    share: float  # %
    thread: str
    dense: float = 1.0


@dataclass(frozen=True)
class Fluff:
    """What slit layers become once washed. slits, spines: lines (n, 2) mm that are cut, and along which ridges stand;
    reaches: mm that the ridge of each spine goes to either side."""

    slits: tuple[Array, ...]
    spines: tuple[Array, ...]
    reaches: tuple[float, ...]


@dataclass(frozen=True)
class Locals:
    """Settings that hold at one place, and the places that a piece offers for it."""

    word: str  # over them: "Caps"
    settings: tuple[Setting, ...]
    spots: Callable[[Work, Values], Sequence[Spot]]
    shift: str = ""  # key of the setting that moves it along its line, as dragging does
    width: str = ""  # key of the one that sizes it

    def setting(self, key: str) -> Setting | None:
        """A setting by key."""
        return next((one for one in self.settings if one.key == key), None)


@dataclass(frozen=True)
class SortedAs:
    """How a construction is offered where artwork comes in. word: what it is called there; suits: whether it is
    proposed for a region, by the width of its stroke and the shorter side of its box, mm."""

    word: str
    suits: Callable[[float, float], bool] = lambda stroke, short: False


SMALL = 8.0  # mm of a side under which cloth is fiddly
THIN, WIDE_STROKE = 0.8, 3.5  # mm of strokes that a run sews, and columns


class FoundPart(NamedTuple):
    """A part of a stitch file that is to become a shape. kind: of its stitches; way: what of it the shape is, or
    "cloth" where that is what an appliqué covers; mm and degrees, None where it has none."""

    kind: str
    way: str
    spacing: float | None = None
    width: float | None = None
    angle: float | None = None
    length: float | None = None


@dataclass(frozen=True)
class Construction:
    """A construction, found by name in this package."""

    name: str
    title: str
    settings: tuple[Setting, ...]
    operations: Operations
    family: Family = Family.AREAS
    areas: bool = True  # whether it sews closed shapes
    lines: bool = False  # whether it sews open lines
    materials: frozenset[str] = frozenset()  # kinds of material that the person chooses for it, the thread apart
    default_for: str = ""  # "area" or "line": what new shapes of that kind are sewn as
    derive: Callable[[Work, Mapping[str, Plain]], Mapping[str, Plain]] = nothing_told  # further traits for rules
    stands_on: Callable[[Work, str, Mapping[str, Plain]], Area | None] = its_region  # by role; None: no rule asks
    beyond: Callable[[Mapping[str, Plain]], float] = lambda known: 0.0  # mm that it is sewn outside its region
    pointed: Callable[[Mapping[str, Plain]], bool] = lambda known: False  # whether that comes to points at corners
    hides: Callable[[Work, Values], Area | None] = lambda work, values: None  # the area that its stitches hide
    ends: Ends = Ends.NOWHERE
    around: Around | None = None  # for one that goes round other pieces
    apart: Callable[[Mapping[str, Plain]], tuple[PlainParts, PlainParts]] | None = None  # by its values: what plain
    # constructions stand for it, before its decoration and after
    clear: Callable[[Work, Values], tuple[Area, float]] | None = (
        None  # up to its border, and mm that what decorates it
    )
    # keeps from that
    over_cloth: Mapping[str, Plain] | None = None  # own values once a cloth is put under it; None: it gets none
    # own values with which its cloth is laid over what decorates it
    over_decoration: Mapping[str, Plain] | None = None
    proofs: tuple[Proof, ...] = ()
    findings: Callable[[Sewn], list[Finding]] = lambda sewn: []
    ways: Mapping[str, Callable[[Sewn], Ways]] = field(default_factory=dict)  # by code of finding
    shown_on: Sample = Sample.BLOB
    shown_with: Mapping[str, Plain] = field(default_factory=dict)  # own values fitting so small a shape
    cuts_open: bool = False  # whether its shape is cut out of what it lies on
    holds_lace: bool = False  # whether it is put under a design to hold that together without cloth
    of_cloth: tuple[str, str] | None = (
        None  # what the button says that makes one of a piece of cloth, and what that does
    )
    judges: Callable[[str, str, float], Judgement] | None = None  # how a text does in a typeface at a height, mm
    local: Locals | None = None  # for one that lets the person change single places of it
    tools: frozenset[str] = frozenset()  # keys of tools that its values go by
    minds_decoration: bool = False  # whether what decorates it changes how it is sewn
    fluffed: Callable[[Work, Values, Sequence[Pass]], Fluff] | None = None  # what becomes of its layers once slit
    led: Callable[[Work, Mapping[str, Plain]], Sequence[Led]] | None = None  # where its lines would lie, at once,
    # while a guide line is bent or a stop of its strip is dragged
    strip: Callable[[Work, Mapping[str, Plain]], Sequence[Stop]] | None = None  # what can be dragged along the way
    # across it
    strip_keys: tuple[str, ...] = ()  # keys of the settings that hold where that lies
    guides: int = 1  # guide lines of a shape that it goes by, the latest ones
    reads: Callable[[FoundPart], Mapping[str, float | None] | None] = lambda part: None  # what of its settings was
    # measured of a part of a stitch file, with which it sews that as it was; None for one that it does not sew
    sorted_as: SortedAs | None = None  # how it is offered where artwork comes in
    needles: bool = False  # whether it sews the needle points that its shape is the outline of
    rigid: Callable[[Shape], str] = lambda shape: ""  # why a shape cannot change its size, "" where it can

    def setting(self, key: str) -> Setting | None:
        """A setting by key."""
        return next((one for one in self.settings if one.key == key), None)

    def measured(self, values: Mapping[str, float | None]) -> dict[str, Plain]:
        """Own values out of what was measured, within their bounds, those that were not left to matching."""
        known = {one.key: one for one in self.settings}
        return {key: known[key].bounded(round(value, known[key].decimals)) for key, value in values.items()
                if value is not None}  # fmt: skip

    @property
    def early(self) -> tuple[Setting, ...]:
        """The settings that decide which operations there are."""
        return tuple(one for one in self.settings if one.early)

    def grown(self, own: Mapping[str, Plain], factor: float) -> dict[str, Plain]:
        """A piece's own values once it is `factor` times as large: what grows with it within its bounds, the rest
        as it is."""
        growing = {one.key: one for one in self.settings if one.grows}
        return {key: growing[key].bounded(float(value) * factor) if key in growing else value
                for key, value in own.items()}  # fmt: skip
