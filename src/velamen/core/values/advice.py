"""What a brief asks for: recommendations with reasons, and cautions."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velamen.core.job.document import COURSES, HOLD, HOOPING, MATCHED, NEAREST, Brief
from velamen.core.materials.library import Library
from velamen.core.setting import Plain, Setting
from velamen.core.values.cautions import Told, cautions_for
from velamen.core.values.engine import match
from velamen.core.values.traits import brief_traits
from velamen.core.values.value import Value, Values

WINDOW = 20.0  # mm, side of the square in which density is counted

NEEDLES = (
    ("sharp_65", "65/9 sharp"),
    ("sharp_75", "75/11 sharp"),
    ("sharp_80", "80/12 sharp"),
    ("ball_75", "75/11 ball point"),
    ("ball_80", "80/12 ball point"),
    ("leather_80", "80/12 leather point"),
    ("eye_90", "90/14 large eye"),
)

ORDER = Setting(
    "advised_course", "Order", "Brief", "In which pieces that lie apart are sewn.", "choice", "", choices=COURSES
)
SETTINGS = (
    Setting("advised_stabilizer", "Stabilizer", "Brief", "What lies under it.", kind="text", unit=""),
    Setting("advised_layers", "Layers", "Brief", "Of the stabilizer.", unit="", high=4, step=1),
    Setting("advised_topping", "Topping", "Brief", "What lies on top.", kind="text", unit=""),
    Setting(
        "advised_knockdown", "Knockdown", "Brief", "A light ground that keeps pile down.", "choice", "",
        choices=(("no", "not needed"), ("advised", "advised"), ("needed", "needed"), ("close", "close, needed")),
    ),
    Setting("advised_hooping", "Hooping", "Brief", "How it lies in the hoop.", "choice", "", choices=HOOPING),
    Setting("advised_hold", "Held by", "Brief", "What else holds it.", "choice", "", choices=HOLD),
    ORDER,
    Setting("needle", "Needle", "Brief", "Size and point.", "choice", "", choices=NEEDLES),
)  # fmt: skip


@dataclass(frozen=True)
class Density:
    """Stitches per cm² in the densest square, and where its middle is, in mm."""

    densest: float
    x: float
    y: float


@dataclass(frozen=True)
class Sewn:
    """What is known of the pieces: foam, knockdown or cloth among them, and how dense they are sewn."""

    foam: bool = False
    knockdown: bool = False
    cloth: bool = False  # laid under what is sewn
    opening: bool = False  # cut into it
    density: Density | None = None


def advice(brief: Brief, library: Library, sewn: Sewn = Sewn()) -> Values:
    """What the base asks for, each with its reasons."""
    return match(SETTINGS, advice_traits(brief, library, sewn), {}, lambda known, setting: {})


def course_of(brief: Brief, library: Library) -> Value:
    """The order in which pieces that lie apart are sewn: what the hoop asks for, or what the brief says."""
    own = {} if brief.course == MATCHED else {ORDER.key: brief.course}
    return match((ORDER,), brief_traits(brief, library), own, lambda known, setting: {})[ORDER.key]


def brief_cautions(brief: Brief, library: Library, sewn: Sewn = Sewn()) -> list[Told]:
    """What cannot work or calls for care, the gravest first."""
    return cautions_for(advice_traits(brief, library, sewn))


def advice_traits(brief: Brief, library: Library, sewn: Sewn) -> dict[str, Plain]:
    """Traits of brief and pieces together."""
    thread = library.threads.get(brief.thread) if brief.thread != NEAREST else None
    sheet = library.stabilizers[brief.stabilizer]
    traits = {
        **brief_traits(brief, library),
        "thread_finish": thread.finish if thread else "matte",
        "thread_weight": thread.weight if thread else 40.0,
        "foam_there": sewn.foam,
        "knockdown_there": sewn.knockdown,
        "cloth_there": sewn.cloth,
        "opening_there": sewn.opening,
    }
    if sewn.density is not None and sheet.carries and traits["stabilizer_layers"]:
        needed = math.ceil(sewn.density.densest / sheet.carries)
        layers = brief.stabilizer_layers
        traits |= {
            "densest": sewn.density.densest,
            "carries": sheet.carries,
            "layers_needed": float(needed),
            "layers_short": float(needed - layers),
            "layers_words": "one layer" if layers == 1 else f"{layers} layers",
        }
    return traits


def density_of(points: NDArray[np.float64]) -> Density | None:
    """The densest square of a plan's needle points (n, 2), looked for at half its side."""
    if len(points) == 0:
        return None
    cells = np.floor(points / (WINDOW / 2)).astype(np.int64)
    low = cells.min(axis=0)
    grid = np.zeros(cells.max(axis=0) - low + 2, dtype=np.int64)
    np.add.at(grid, tuple((cells - low).T), 1)
    total = grid[:-1, :-1] + grid[1:, :-1] + grid[:-1, 1:] + grid[1:, 1:]
    column, row = np.unravel_index(int(np.argmax(total)), total.shape)
    x, y = (np.array([column, row]) + low + 1) * (WINDOW / 2)
    return Density(float(total.max()) / (WINDOW / 10.0) ** 2, float(x), float(y))
