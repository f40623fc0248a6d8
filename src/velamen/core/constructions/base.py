"""What a construction is: settings declared once, and how a piece becomes passes and hand steps."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely import Polygon

from velamen.core.setting import Plain, Setting
from velamen.core.stitching.strand import Strand
from velamen.core.timeline.layers import Area, Event, Layer
from velamen.core.values.value import Values

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Pass:
    """Stitching with one role. strands: sewn in order, each tied at both ends."""

    role: str
    label: str
    thread: str
    piece: str
    strands: tuple[Strand, ...]


@dataclass(frozen=True)
class HandStep:
    """What the person at the machine does at a stop, or, where late, when all is sewn.

    pattern: its text, with {names} for those of the pieces it is done for, several where they share a
    stop; seconds: for the estimate; cloth: key of the cloth laid or cut; foam: layer laid under it.
    """

    kind: str
    label: str
    pattern: str
    seconds: float
    pieces: tuple[str, ...]
    names: tuple[str, ...]
    cloth: str = ""
    foam: Layer | None = None
    late: bool = False

    @property
    def text(self) -> str:
        """What to do, in words."""
        *first, last = self.names
        return self.pattern.replace("{names}", f"{', '.join(first)} and {last}" if first else last)

    @property
    def piece(self) -> str:
        """The piece it is done for, the first of several."""
        return self.pieces[0]


Step = Pass | HandStep


def hand_step(
    kind: str, label: str, pattern: str, seconds: float, work: Work, foam: Layer | None = None, late: bool = False
) -> HandStep:
    """A hand step of a piece that lays a cloth."""
    return HandStep(kind, label, pattern, seconds, (work.piece,), (work.name,), work.cloth.key, foam, late)


def step_kind(step: Step) -> str:
    """The role of a pass, or the kind of a hand step."""
    return step.role if isinstance(step, Pass) else step.kind


LOOP, BACK, PATH, OWN = "loop", "back", "path", "own"
"""How the last pass of a construction is entered and left.

It goes round boundaries, or comes back over an area, and so ends where it begins; it ends elsewhere, and is sewn the
other way round to end at a place; or it has a way of its own.
"""

FAMILIES = ("Cloth", "Grounds", "Lines", "Edges", "Areas")


@dataclass(frozen=True)
class Work:
    """A piece to be built: its region in mm and what it is made of.

    foams: layers of foam by key, for constructions that lay some; line: (n, 2) where the shape is
    an open line, whose region is then just the ground it runs over; guides, directions: lines (n, 2)
    drawn on the shape; start, end: where sewing should begin and end, None to leave it open;
    sources: for a piece that goes round others, the areas those are sewn on, its own shape where it has one;
    field: the sewing field; later: cloth laid later over or beside it; die: key of the die that cuts it;
    marks, pile: of the base. The region of a piece that goes round others may have several parts.
    """

    piece: str
    name: str
    region: Area
    cloth: Layer
    thread: str
    foams: Mapping[str, Layer]
    line: Array | None = None
    guides: tuple[Array, ...] = ()
    directions: tuple[Array, ...] = ()
    start: tuple[float, float] | None = None
    end: tuple[float, float] | None = None
    sources: tuple[Area, ...] = ()
    field: Polygon | None = None
    later: Area | None = None
    die: str = ""
    marks: str = "none"
    pile: float = 0.0

    def key(self) -> tuple[object, ...]:
        """All that stitches depend on besides values, to be compared."""
        lines = (np.zeros((0, 2)) if self.line is None else self.line, *self.guides, *self.directions)
        told = tuple(line.tobytes() for line in lines), len(self.guides)
        near = self.sources, self.field, self.later, self.die, self.marks, self.pile
        return self.region, self.cloth.name, self.thread, told, self.start, self.end, near


@dataclass(frozen=True)
class Construction:
    """A construction registered by name.

    derive: further traits out of the values known so far, for rules to use;
    events: what is laid, cut and sewn, in order, out of the values known so far;
    footprint: the area that the passes of a role are sewn on, None where no rule asks;
    shaping: keys of the settings that events depend on;
    steps: passes and hand steps of a piece with its values; lays: whether it lays a cloth of its
    own; proofs: names of the proofs that it must hold; family: one of FAMILIES; lines: whether it can
    be sewn along an open line; areas: whether over a closed shape; cover: the area that its stitching
    hides, None where it hides nothing; ground: for one that goes round other pieces, its own region out of
    their areas (Work.sources) and its values; reach: mm that it is sewn outside its region; cut: the cloth as it is
    cut; under: whether
    it is sewn before what it goes round; ends: LOOP, BACK, PATH or OWN where the person may place its entry and exit.
    """

    name: str
    title: str
    settings: tuple[Setting, ...]
    derive: Callable[[Work, Mapping[str, Plain]], Mapping[str, Plain]]
    events: Callable[[Work, Mapping[str, Plain]], list[Event]]
    footprint: Callable[[Work, str, Mapping[str, Plain]], Area | None]
    shaping: frozenset[str]
    steps: Callable[[Work, Values], list[Step]]
    lays: bool = True
    proofs: frozenset[str] = frozenset({"edge_cover"})
    family: str = "Cloth"
    lines: bool = False
    areas: bool = True
    cover: Callable[[Work, Values], Area | None] = lambda work, values: None
    ground: Callable[[Work, Mapping[str, Plain]], Area] | None = None
    reach: Callable[[Mapping[str, Plain]], float] = lambda known: 0.0
    cut: Callable[[Work, Mapping[str, Plain]], Area] = lambda work, known: work.region
    under: bool = False
    ends: str = ""

    def setting(self, key: str) -> Setting | None:
        """A setting by key."""
        return next((one for one in self.settings if one.key == key), None)
