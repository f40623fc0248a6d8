"""Try-outs: one or two values of a piece in up to eight variants, each built, counted and pictured alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from velamen.core.building.build import Build, build_job
from velamen.core.constructions import construction, sewn_pieces
from velamen.core.edits.stack.own_values import with_values
from velamen.core.errors import BadInput
from velamen.core.job.document import Job
from velamen.core.numbers import read_number
from velamen.core.outputs.picture import Box, preview_png, shown_box
from velamen.core.plan.figures import Figures
from velamen.core.plan.stitch_plan import JUMP
from velamen.core.setting import Plain, Setting

MOST_VARIANTS = 8
STEPS = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 20.0)  # between neighbours that are proposed
SHARE, TINY = 0.15, 1e-9  # of a value that its neighbours lie off it
PIXELS = 620
CLOSE = 0.25  # of the whole, seen in a close look
LEAST_SIDE, MOST_SIDE = 24.0, 60.0  # mm of it
TOWARDS = (1.0, 0.15)  # the edge that is looked at: on the right, a little below
WASTE = 1.15  # of the stitches' length, thread that is used (handbook, section 2)


@dataclass(frozen=True)
class Variant:
    """One variant: the values it sets on the piece, in words, and the job with them."""

    values: dict[str, Plain]
    label: str
    job: Job


@dataclass(frozen=True)
class Tried:
    """A variant built. thread: m of top thread; warnings: findings that are no mere notes; box: mm it is sewn in."""

    figures: Figures
    thread: float
    warnings: int
    held: bool
    box: Box


def variants(job: Job, piece_id: str, asked: Sequence[tuple[str, str]]) -> list[Variant]:
    """Every combination of values, by key with a typed list each. Raises BadInput with what is wrong."""
    piece = next((one for one in sewn_pieces(job) if one.id == piece_id), None)
    if piece is None:
        raise BadInput("That piece is no longer in the job: reload the page.")
    kind = construction(piece.construct)
    lists: list[list[tuple[Setting, Plain]]] = []
    for key, text in asked:
        setting = kind.setting(key)
        if setting is None:
            raise BadInput(f"{kind.title} has no value {key[:40]!r}: choose another.")
        lists.append([(setting, value) for value in listed(setting, text)])
    count = int(np.prod([len(one) for one in lists])) if lists else 0
    if not 2 <= count <= MOST_VARIANTS:
        raise BadInput(f"That makes {count} variants: give lists that make 2 to {MOST_VARIANTS}.")
    found = []
    for chosen in product(*lists):
        values = {setting.key: value for setting, value in chosen}
        label = ", ".join(f"{one.label.lower()} {one.show(value)}{' ' + one.unit if one.unit else ''}"
                          for one, value in chosen)  # fmt: skip
        found.append(Variant(values, label, with_values(job, piece_id, values)))
    return found


def listed(setting: Setting, text: str) -> list[Plain]:
    """Values out of a typed list: "2.5; 3; 4", "2.5 3 4", "2 to 4 by 0.5", or choices by key or label.

    >>> width = Setting("width", "Width", "Cover", "", low=1, high=10)
    >>> listed(width, "2 to 3 by 0.5"), listed(width, "2.5 3 3,5")
    ([2.0, 2.5, 3.0], [2.5, 3.0, 3.5])
    """
    blanks = text.split()
    if setting.kind == "number" and len(blanks) > 1 and all(map(_is_number, blanks)):
        return list(dict.fromkeys(setting.read(one) for one in blanks))
    words = text.lower().replace(" by ", " to ").split(" to ")
    if len(words) == 3 and setting.kind == "number":
        low, high, step = (float(setting.read(words[0])), float(setting.read(words[1])), _number(words[2]))
        if step <= 0 or (high - low) / step > MOST_VARIANTS:
            raise BadInput(f"{setting.label}: a step of {step:g} from {low:g} to {high:g} makes too many variants.")
        return [round(float(one), 4) for one in np.arange(low, high + step / 2, step)]
    labels = {label.lower(): key for key, label in setting.choices}
    parts = [one.strip() for one in text.replace(";", ",").replace("/", ",").split(",") if one.strip()]
    return list(dict.fromkeys(setting.read(labels.get(one.lower(), one)) for one in parts))


def neighbours(setting: Setting, value: Plain) -> str:
    """A list to try of the values beside one, as it would be typed; of a choice all that there are.

    >>> neighbours(Setting("width", "Width", "Cover", "", low=1, high=10), 3.0)
    '2; 2.5; 3; 3.5; 4'
    """
    if setting.kind == "choice":
        return "; ".join(label for _, label in setting.choices[:MOST_VARIANTS])
    steps = [one for one in STEPS if one >= setting.step - TINY] or [setting.step]
    wanted = max(abs(float(value)) * SHARE, setting.step)
    step = min(steps, key=lambda one: abs(one - wanted))
    found = [setting.bounded(float(value) + nth * step) for nth in range(-2, 3)]
    return "; ".join(f"{one:g}" for one in dict.fromkeys(found))


def tried(variant: Variant) -> tuple[Build, Tried]:
    """A variant built, and its figures."""
    build = build_job(variant.job)
    plan = build.plan
    steps = np.linalg.norm(np.diff(plan.xy, axis=0), axis=1)
    sewn = plan.sewn[1:] & (plan.command[:-1] <= JUMP)
    warnings = sum(one.severity != "info" for one in build.findings)
    proofs = [proved for one in build.pieces for proved in one.proofs.values()]
    return build, Tried(build.figures, round(WASTE * float(steps[sewn].sum()) / 1000.0, 1), warnings,
                        all(one.held for one in proofs), shown_box(build))  # fmt: skip


def pictured(build: Build, box: Box, pixels: int = PIXELS) -> bytes:
    """A PNG of a variant over a box that all variants share, so that they are at one scale."""
    return preview_png(build, None, pixels, box)


def common_box(boxes: Sequence[Box]) -> Box:
    """The box in mm that holds all of them."""
    every = np.array(boxes)
    low, high = every[:, :2].min(axis=0), every[:, 2:].max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def close_box(build: Build, piece_id: str, whole: Box) -> Box:
    """A box in mm at the edge of a piece's sewing, where what differs between variants is seen thread by thread."""
    plan = build.plan
    ids = [block.index for block in plan.blocks if block.piece == piece_id]
    points = plan.xy[plan.sewn & np.isin(plan.block, ids)]
    if len(points) == 0:
        return whole
    x, y = points[int(np.argmax(points @ np.array(TOWARDS)))].tolist()
    side = min(max(CLOSE * max(whole[2] - whole[0], whole[3] - whole[1]), LEAST_SIDE), MOST_SIDE)
    return x - 0.65 * side, y - 0.25 * side, x + 0.35 * side, y + 0.25 * side


def _is_number(text: str) -> bool:
    try:
        read_number(text)
    except ValueError:
        return False
    return True


def _number(text: str) -> float:
    try:
        return read_number(text)
    except ValueError:
        raise BadInput(f"{text.strip()[:20]!r} is no step: write it like 0.5.") from None
